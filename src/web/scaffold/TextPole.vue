<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import type { Column } from './columns.ts';
import PoleCanvas from './PoleCanvas.vue';
import { px, useRoom } from './room.ts';
import type { Shape } from './shapes.ts';
import { layText, type TextItem } from './text-pole.ts';

/** A pole that is read: marks at their time, words beside them; words that would touch give way and are read at the level. */
const props = defineProps<{
  pole: Column['key'];
  items: readonly TextItem[];
  /** Room left free at the pole's own side, pixels. */
  inset?: number;
}>();
const bench = useBench();
const { scale, column, isEvidence, words } = useRoom();
const lines = computed(() => layText(props.items, scale.value));
const shown = computed(() => lines.value.filter((line) => line.show));
/** The marks' own part of the pole: a narrow canvas costs little. */
const marksWidth = 14;
const looks: Record<TextItem['mark'], { width: number; height?: number; down: number; look: Shape['look'] }> = {
  bar: { width: 3, height: 11, down: 0, look: 'fill' },
  wide: { width: 7, height: 3, down: 3, look: 'fill' },
  block: { width: 8, height: 8, down: 1, look: 'fill' },
  span: { width: 5, down: 0, look: 'fill' },
  ring: { width: 8, height: 8, down: 1, look: 'ring' },
  gap: { width: 5, down: 0, look: 'hatch' },
};
const shapes = computed(() =>
  lines.value.map((line): Shape => {
    const { width, height, down, look } = looks[line.mark];
    return {
      left: place.value.left + 2,
      top: line.top + down,
      width,
      height: height ?? line.height,
      look,
      tone: line.tone === 'plain' || line.tone === 'soft' ? 'steel-deep' : line.tone,
      evidence: isEvidence(line.id),
    };
  }),
);
const place = computed(() => {
  const { left, width } = column(props.pole);
  const inset = props.inset ?? 0;
  return { left: left + inset, width: width - inset };
});
</script>

<template>
  <div>
    <PoleCanvas :shapes="shapes" :left="place.left" :width="marksWidth" />
    <span
      v-for="line in words(shown)"
      :key="line.id"
      class="line mono one-line label"
      :class="line.tone"
      :style="{ top: px(line.top - 3), left: px(place.left + 13), width: px(place.width - 20) }"
      :title="line.text"
      @click="bench.level = line.at"
      ><b v-if="line.count > 1">{{ line.count }} × </b>{{ line.text }}</span
    >
  </div>
</template>

<style scoped>
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
