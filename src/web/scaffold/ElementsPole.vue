<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { lifelineDrawing } from './drawing.ts';
import PoleCanvas from './PoleCanvas.vue';
import { px, useRoom } from './room.ts';
import type { Shape } from './shapes.ts';

/**
 * Lifelines: absent dotted, hidden or disabled hollow, visible filled, covered hatched; another node in
 * another colour below a bar of ink; several matches with a second line beside it; a notch where it
 * moved. Each is also said in words where there is room.
 */
const bench = useBench();
const { scale, column, isEvidence, words, crowded } = useRoom();
const place = computed(() => column('element'));
const lines = computed(() =>
  crowded('element') ? { segments: [], labels: [] } : lifelineDrawing(bench.poles, scale.value, place.value),
);
const shapes = computed(() =>
  lines.value.segments.flatMap((s): Shape[] => {
    const look =
      s.presence === 'absent'
        ? 'dotted'
        : s.presence === 'covered'
          ? 'hatch'
          : s.presence === 'visible'
            ? s.moved
              ? 'wave'
              : 'fill'
            : 'hollow';
    const tone =
      s.presence === 'absent' ? 'steel' : s.presence === 'covered' ? 'brick' : s.generation % 2 ? 'violet' : 'sea';
    const base = { left: s.left, top: s.top, height: s.height };
    return [
      { ...base, width: 9, look, tone, evidence: isEvidence(s.id) },
      ...(s.matches > 1 ? [{ ...base, left: s.left + 10, width: 2, look: 'fill', tone: 'steel-deep' } as Shape] : []),
      ...(s.replaced ? [{ ...base, height: 3, width: 9, look: 'fill', tone: 'ink' } as Shape] : []),
    ];
  }),
);
</script>

<template>
  <div>
    <PoleCanvas :shapes="shapes" :left="place.left" :width="place.width - 5" />
    <span
      v-for="label in words(lines.labels)"
      :key="label.key"
      class="life-label label"
      :title="label.text"
      :class="label.kind"
      :style="{ top: px(label.top), left: px(label.left), maxHeight: px(label.height) }"
      >{{ label.text }}</span
    >
  </div>
</template>

<style scoped>
.life-label {
  position: absolute;
  writing-mode: vertical-rl;
  font-size: 10.5px;
  line-height: 13px;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.life-label.replaced {
  color: var(--violet);
  font-weight: 600;
}
.life-label.changed,
.life-label.moved,
.life-label.several {
  font-style: italic;
}
.life-label.removed,
.life-label.covered {
  color: var(--brick-text);
  font-weight: 600;
}
</style>
