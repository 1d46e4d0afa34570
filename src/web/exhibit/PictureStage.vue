<script setup lang="ts">
import { ref, watch } from 'vue';

/** A picture, or a film, that can be looked at from nearer: buttons, Ctrl and wheel, + and −; dragged or moved by the arrow keys. */
const props = defineProps<{ size: { width: number; height: number }; label: string }>();
const zoom = ref(1);
const pan = ref({ x: 0, y: 0 });
const stage = ref<HTMLElement>();
const most = 8;

function zoomTo(next: number): void {
  zoom.value = Math.min(most, Math.max(1, next));
  moveTo(pan.value.x, pan.value.y);
}
/** Moves the picture, in shares of the stage; never so far that it leaves it. */
function moveTo(x: number, y: number): void {
  const reach = (zoom.value - 1) / 2;
  pan.value = { x: Math.min(reach, Math.max(-reach, x)), y: Math.min(reach, Math.max(-reach, y)) };
}
let from: { x: number; y: number; pan: { x: number; y: number } } | undefined;
function grab(event: PointerEvent): void {
  if (zoom.value === 1) return;
  from = { x: event.clientX, y: event.clientY, pan: pan.value };
  stage.value!.setPointerCapture(event.pointerId);
}
function drag(event: PointerEvent): void {
  if (!from) return;
  const box = stage.value!.getBoundingClientRect();
  moveTo(from.pan.x + (event.clientX - from.x) / box.width, from.pan.y + (event.clientY - from.y) / box.height);
}
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey) return;
  event.preventDefault();
  zoomTo(zoom.value * (event.deltaY < 0 ? 1.2 : 1 / 1.2));
}
function key(event: KeyboardEvent): void {
  const by: Record<string, [number, number]> = {
    ArrowLeft: [0.1, 0],
    ArrowRight: [-0.1, 0],
    ArrowUp: [0, 0.1],
    ArrowDown: [0, -0.1],
  };
  const move = by[event.key];
  if (event.key === '+' || event.key === '=') zoomTo(zoom.value * 1.4);
  else if (event.key === '-') zoomTo(zoom.value / 1.4);
  else if (event.key === '0') zoomTo(1);
  else if (move && zoom.value > 1) moveTo(pan.value.x + move[0], pan.value.y + move[1]);
  else return;
  event.preventDefault();
  event.stopPropagation();
}
watch(
  () => props.size.width / props.size.height,
  () => zoomTo(1),
);
</script>

<template>
  <div class="whole">
    <div
      ref="stage"
      class="stage"
      :class="{ near: zoom > 1 }"
      :style="{ aspectRatio: `${size.width} / ${size.height}` }"
      tabindex="0"
      role="group"
      :aria-label="label"
      @pointerdown="grab"
      @pointermove="drag"
      @pointerup="from = undefined"
      @wheel="wheel"
      @keydown="key"
    >
      <div class="inner" :style="{ transform: `translate(${pan.x * 100}%, ${pan.y * 100}%) scale(${zoom})` }">
        <slot />
      </div>
    </div>
    <div class="tools">
      <button aria-label="Picture smaller" :disabled="zoom === 1" @click="zoomTo(zoom / 1.5)">−</button>
      <span class="mono">{{ zoom === 1 ? 'fits' : `${zoom.toFixed(1)} ×` }}</span>
      <button aria-label="Picture larger" @click="zoomTo(zoom * 1.5)">+</button>
      <slot name="tools" />
    </div>
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  width: 100%;
  max-height: 62vh;
  border: 1px solid var(--line);
  background: var(--fold);
  overflow: hidden;
}
.stage.near {
  cursor: grab;
}
.inner {
  position: absolute;
  inset: 0;
}
.inner > :deep(*) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.tools {
  display: flex;
  gap: 5px;
  align-items: center;
  margin-top: 4px;
  font-size: 12px;
}
.tools :deep(button) {
  border: 1px solid var(--line);
  background: var(--ground);
  padding: 0 7px;
  cursor: pointer;
  font-size: 12px;
}
.tools button:disabled {
  opacity: 0.5;
  cursor: default;
}
</style>
