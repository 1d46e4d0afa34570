<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { gutter, type Column } from './columns.ts';
import { useRoom } from './room.ts';

/** Brackets from the chosen pennant to where its evidence stands, or from the level to what was asked for by itself. */
const props = defineProps<{
  pennants: readonly { top: number }[];
  stands: (key: Column['key']) => boolean;
}>();
const bench = useBench();
const { scale, column } = useRoom();
const poleOf: Partial<Record<string, { key: Column['key']; more: number }>> = {
  step: { key: 'step', more: 0 },
  note: { key: 'note', more: 0 },
  service: { key: 'service', more: 0 },
  poll: { key: 'wait', more: 0 },
  element: { key: 'element', more: 6 },
  network: { key: 'network', more: 6 },
  console: { key: 'console', more: 0 },
  screen: { key: 'screen', more: 0 },
  page: { key: 'page', more: 0 },
  window: { key: 'window', more: 0 },
};
const brackets = computed(() => {
  const chosen = bench.clue === null ? undefined : props.pennants[bench.clue];
  const from = chosen ? chosen.top + 9 : bench.pointed ? scale.value.y(bench.level) : undefined;
  if (from === undefined) return [];
  const turn = gutter.mini + gutter.pennant + 6;
  return [...bench.evidence].flatMap((id) => {
    const event = bench.byId.get(id);
    const place = event && poleOf[event.lane];
    if (!event || !place) return [];
    const key = event.kind === 'exception' && props.stands('exception') ? 'exception' : place.key;
    // Evidence on a pole that does not stand is pointed at where the steps begin.
    const left = props.stands(key) ? column(key).left + place.more : column('step').left;
    const top = scale.value.y(event.at) + (event.lane === 'step' ? 17 : 3);
    return [{ id, left, top, path: `M ${gutter.mini + 22} ${from} H ${turn} V ${top} H ${left}` }];
  });
});
</script>

<template>
  <svg class="brackets" :height="scale.height + 60" width="100%" aria-hidden="true">
    <path v-for="b in brackets" :key="b.id" :d="b.path" />
    <circle v-for="b in brackets" :key="`c${b.id}`" :cx="b.left" :cy="b.top" r="3.2" />
  </svg>
</template>

<style scoped>
.brackets {
  position: absolute;
  inset: 0;
  pointer-events: none;
  z-index: 0;
}
path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.1;
}
circle {
  fill: var(--ink);
}
</style>
