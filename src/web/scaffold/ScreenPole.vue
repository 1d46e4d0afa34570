<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { px, useRoom } from './room.ts';

/** Pictures at their time, as many as fit; the test's own screenshots with a sea edge. */
const bench = useBench();
const { scale, column, isEvidence, words } = useRoom();
const pictures = computed(() => {
  let free = -Infinity;
  const width = column('screen').width - 12;
  return bench.poles.screens.flatMap((screen) => {
    const top = scale.value.y(screen.at);
    const height = Math.min(64, (width * screen.data.height) / Math.max(1, screen.data.width));
    if (top < free) return [];
    free = top + height + 4;
    return [{ screen, top, height, width }];
  });
});
</script>

<template>
  <div>
    <img
      v-for="p in words(pictures)"
      :key="p.screen.id"
      class="thumb"
      :class="{ evidence: isEvidence(p.screen.id), told: p.screen.kind === 'screenshot' }"
      :src="`/api/blobs/${p.screen.data.blob}`"
      alt=""
      loading="lazy"
      :style="{ top: px(p.top), height: px(p.height), left: px(column('screen').left + 2), width: px(p.width) }"
      @click="bench.level = p.screen.at"
    />
  </div>
</template>

<style scoped>
.thumb {
  position: absolute;
  border: 1px solid var(--line);
  background: var(--paper);
  object-fit: cover;
  object-position: top;
  cursor: pointer;
}
.thumb.told {
  border-color: var(--sea);
}
</style>
