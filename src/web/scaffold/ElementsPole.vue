<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { lifelineDrawing } from './drawing.ts';
import { px, useRoom } from './room.ts';

/** Lifelines: absent, hidden, visible, covered, another node, each told by shape and words, not only colour. */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const lines = computed(() => lifelineDrawing(bench.poles, scale.value, column('element')));
</script>

<template>
  <div>
    <i
      v-for="s in inSight(lines.segments)"
      :key="s.id"
      class="life"
      :class="[
        s.presence,
        s.generation % 2 ? 'other' : 'first',
        { replaced: s.replaced, moved: s.moved, several: s.matches > 1, evidence: isEvidence(s.id) },
      ]"
      :style="{ top: px(s.top), height: px(s.height), left: px(s.left) }"
    />
    <span
      v-for="(label, i) in inSight(lines.labels)"
      :key="i"
      class="life-label label"
      :title="label.text"
      :class="label.kind"
      :style="{ top: px(label.top), left: px(label.left), maxHeight: px(label.height) }"
      >{{ label.text }}</span
    >
  </div>
</template>

<style scoped>
.life {
  position: absolute;
  width: 9px;
}
.life.visible {
  background: var(--sea);
}
.life.visible.other {
  background: var(--violet);
}
.life.absent {
  width: 0;
  margin-left: 4px;
  border-left: 2px dotted var(--steel);
}
.life.hidden,
.life.disabled {
  border: 1.5px solid var(--sea);
  background: var(--paper);
}
.life.hidden.other,
.life.disabled.other {
  border-color: var(--violet);
}
.life.covered {
  border: 1.5px solid var(--brick);
  background: repeating-linear-gradient(45deg, var(--brick) 0 2px, var(--brick-pale) 2px 5px);
}
.life.replaced {
  border-top: 3px solid var(--ink);
}
.life.moved::before {
  content: '';
  position: absolute;
  left: -3px;
  right: -3px;
  top: 0;
  height: 5px;
  max-height: 100%;
  background: inherit;
  transform: skewY(-24deg);
}
.life.several {
  box-shadow: 4px 0 0 -1px var(--steel-deep);
}
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
