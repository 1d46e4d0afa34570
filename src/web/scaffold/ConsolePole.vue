<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { px, useRoom } from './room.ts';

/** Console lines at their time; lines that would touch keep their mark and are read at the level. */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const lines = computed(() => {
  let free = -Infinity;
  return bench.poles.console.map((line) => {
    const top = scale.value.y(line.at);
    const show = top >= free;
    if (show) free = top + 16;
    return { line, top, show };
  });
});
</script>

<template>
  <div>
    <template v-for="c in inSight(lines)" :key="c.line.id">
      <i
        class="mark"
        :class="[c.line.data.level, { evidence: isEvidence(c.line.id) }]"
        :style="{ top: px(c.top), left: px(column('console').left + 2) }"
      />
      <span
        v-if="c.show"
        class="console mono one-line"
        :class="c.line.data.level"
        :style="{ top: px(c.top - 3), left: px(column('console').left + 9), width: px(column('console').width - 16) }"
        :title="c.line.data.text"
        >{{ c.line.data.text }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.mark {
  position: absolute;
  width: 3px;
  height: 11px;
  background: var(--steel-deep);
}
.mark.error {
  background: var(--brick);
}
.mark.warning {
  background: var(--amber);
}
.console {
  position: absolute;
  font-size: 11px;
  line-height: 16px;
}
.console.error {
  color: var(--brick-text);
}
.console.warning {
  color: var(--amber-text);
}
</style>
