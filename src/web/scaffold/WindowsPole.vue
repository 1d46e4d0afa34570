<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { px, useRoom } from './room.ts';
import { layText } from './text-pole.ts';

/** Windows: a line each while it stands open, filled while the test looks at it; dialogs and frames in words. */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const windows = computed(() => bench.windows);
const gap = 9;
const most = 4;
const place = computed(() => column('window'));
const tracks = computed(() =>
  windows.value.lines.slice(0, most).map((line, i) => ({
    ...line,
    left: place.value.left + 3 + i * gap,
    top: scale.value.y(line.from),
    height: Math.max(4, scale.value.y(line.until) - scale.value.y(line.from)),
    parts: line.looked.map((one) => ({
      top: scale.value.y(one.from),
      height: scale.value.y(one.until) - scale.value.y(one.from),
    })),
  })),
);
const words = computed(() => layText(windows.value.items, scale.value));
const left = computed(() => place.value.left + 6 + Math.min(most, Math.max(1, windows.value.lines.length)) * gap);
</script>

<template>
  <div>
    <template v-for="line in inSight(tracks)" :key="line.context">
      <i class="window" :style="{ left: px(line.left), top: px(line.top), height: px(line.height) }" />
      <i
        v-for="(part, i) in line.parts"
        :key="i"
        class="window looked"
        :style="{ left: px(line.left), top: px(part.top), height: px(Math.max(3, part.height)) }"
      />
    </template>
    <template v-for="word in inSight(words)" :key="word.id">
      <i
        class="mark"
        :class="[word.tone, { evidence: isEvidence(word.id) }]"
        :style="{ left: px(left - 1), top: px(word.top) }"
      />
      <span
        v-if="word.show"
        class="word one-line label"
        :class="word.tone"
        :style="{ left: px(left + 6), top: px(word.top - 4), width: px(place.left + place.width - left - 12) }"
        :title="word.text"
        @click="bench.level = word.at"
        >{{ word.text }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.window {
  position: absolute;
  width: 6px;
  border: 1.4px solid var(--steel-deep);
}
.window.looked {
  background: var(--sea);
  border-color: var(--sea);
}
.mark {
  position: absolute;
  width: 4px;
  height: 9px;
  background: var(--steel-deep);
}
.mark.brick {
  background: var(--brick);
}
.mark.sea {
  background: var(--sea);
}
.mark.amber {
  background: var(--amber);
}
.word {
  position: absolute;
  font-size: 11px;
  line-height: 16px;
  cursor: pointer;
}
.word.brick {
  color: var(--brick-text);
}
.word.sea {
  color: var(--sea);
}
.word.amber {
  color: var(--amber-text);
}
.word.soft {
  color: var(--soft);
}
</style>
