<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import type { Column } from './columns.ts';
import { px, useRoom } from './room.ts';
import { layText, type TextItem } from './text-pole.ts';

/** A pole that is read: marks at their time, words beside them; words that would touch give way and are read at the level. */
const props = defineProps<{ pole: Column['key']; items: readonly TextItem[] }>();
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const lines = computed(() => layText(props.items, scale.value));
const place = computed(() => column(props.pole));
</script>

<template>
  <div>
    <template v-for="line in inSight(lines)" :key="line.id">
      <i
        class="mark"
        :class="[line.mark, line.tone, { evidence: isEvidence(line.id) }]"
        :style="{ top: px(line.top), height: px(line.height), left: px(place.left + 2) }"
      />
      <span
        v-if="line.show"
        class="line mono one-line label"
        :class="line.tone"
        :style="{ top: px(line.top - 3), left: px(place.left + 13), width: px(place.width - 20) }"
        :title="line.text"
        @click="bench.level = line.at"
        ><b v-if="line.count > 1">{{ line.count }} × </b>{{ line.text }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.mark {
  position: absolute;
  width: 3px;
  background: var(--steel-deep);
}
.mark.wide {
  width: 7px;
  height: 3px !important;
  margin-top: 3px;
}
.mark.block {
  width: 8px;
  height: 8px !important;
  margin-top: 1px;
}
.mark.ring {
  width: 8px;
  height: 8px !important;
  margin-top: 1px;
  background: var(--ground);
  border: 1.5px solid var(--steel-deep);
  border-radius: 50%;
}
.mark.gap {
  width: 5px;
  opacity: 0.45;
}
.mark.brick {
  background: var(--brick);
}
.mark.amber {
  background: var(--amber);
}
.mark.violet {
  background: var(--violet);
}
.mark.sea {
  background: var(--sea);
}
.mark.ring.sea {
  background: var(--ground);
  border-color: var(--sea);
}
.line {
  position: absolute;
  font-size: 11px;
  line-height: 16px;
  cursor: pointer;
}
.line.soft {
  color: var(--soft);
}
.line.brick {
  color: var(--brick-text);
}
.line.amber {
  color: var(--amber-text);
}
.line.sea {
  color: var(--sea);
}
.line.violet {
  color: var(--violet);
}
</style>
