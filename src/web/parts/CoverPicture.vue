<script lang="ts">
/** A part of a picture, as shares of its width and height. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}
</script>

<script setup lang="ts">
import { ref } from 'vue';

/** A picture in which what is not to leave is covered: drawn over with the pointer, or moved and sized by keys. */
const props = defineProps<{ source: string; words: string; boxes: readonly Box[] }>();
const emit = defineEmits<{ change: [boxes: Box[]] }>();

const place = ref<HTMLElement>();
const drawn = ref<Box>();
let from = { x: 0, y: 0 };

/** Smaller ones are slips of the hand. */
const least = 0.01;
const step = 0.02;

const within = (value: number): number => Math.min(1, Math.max(0, value));
function at(event: PointerEvent): { x: number; y: number } {
  const { left, top, width, height } = place.value!.getBoundingClientRect();
  return { x: within((event.clientX - left) / width), y: within((event.clientY - top) / height) };
}
function begin(event: PointerEvent): void {
  place.value!.setPointerCapture(event.pointerId);
  from = at(event);
  drawn.value = { ...from, width: 0, height: 0 };
}
function draw(event: PointerEvent): void {
  if (!drawn.value) return;
  const to = at(event);
  drawn.value = {
    x: Math.min(from.x, to.x),
    y: Math.min(from.y, to.y),
    width: Math.abs(to.x - from.x),
    height: Math.abs(to.y - from.y),
  };
}
function end(): void {
  const box = drawn.value;
  drawn.value = undefined;
  if (box && box.width > least && box.height > least) emit('change', [...props.boxes, box]);
}

/** The newest cover is moved by arrows, and sized by arrows with Shift. */
function key(event: KeyboardEvent): void {
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  const last = props.boxes.at(-1);
  if (!way || !last) return;
  event.preventDefault();
  event.stopPropagation();
  const [dx, dy] = way.map((one) => one * step) as [number, number];
  const moved = event.shiftKey
    ? { ...last, width: Math.max(step, last.width + dx), height: Math.max(step, last.height + dy) }
    : { ...last, x: last.x + dx, y: last.y + dy };
  const x = Math.min(within(moved.x), 1 - step);
  const y = Math.min(within(moved.y), 1 - step);
  emit('change', [
    ...props.boxes.slice(0, -1),
    { x, y, width: Math.min(moved.width, 1 - x), height: Math.min(moved.height, 1 - y) },
  ]);
}
const add = (): void => emit('change', [...props.boxes, { x: 0.3, y: 0.3, width: 0.4, height: 0.2 }]);
const share = (value: number): string => `${(value * 100).toFixed(2)}%`;
const styleOf = (box: Box): Record<string, string> => ({
  left: share(box.x),
  top: share(box.y),
  width: share(box.width),
  height: share(box.height),
});
</script>

<template>
  <figure>
    <div
      ref="place"
      class="place"
      tabindex="0"
      role="group"
      :aria-label="`${words}; ${boxes.length} covered. Draw over what is not to leave. Arrows move the newest cover, with Shift they size it.`"
      @pointerdown="begin"
      @pointermove="draw"
      @pointerup="end"
      @pointercancel="drawn = undefined"
      @keydown="key"
    >
      <img :src="source" alt="" draggable="false" />
      <span v-for="(box, i) in boxes" :key="i" class="cover" :style="styleOf(box)" />
      <span v-if="drawn" class="cover drawn" :style="styleOf(drawn)" />
    </div>
    <figcaption class="soft">{{ words }}</figcaption>
    <p class="acts">
      <button type="button" class="plain sea" @click="add">Cover a part</button>
      <button type="button" class="plain sea" @click="emit('change', [{ x: 0, y: 0, width: 1, height: 1 }])">
        Cover all
      </button>
      <button v-if="boxes.length" type="button" class="plain sea" @click="emit('change', boxes.slice(0, -1))">
        Uncover the newest
      </button>
    </p>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  display: grid;
  gap: 3px;
}
.place {
  position: relative;
  cursor: crosshair;
  touch-action: none;
  border: 1px solid var(--line);
}
img {
  display: block;
  width: 100%;
  user-select: none;
}
.cover {
  position: absolute;
  background: var(--steel);
  border: 1px solid var(--ink);
  pointer-events: none;
}
.cover.drawn {
  opacity: 0.6;
}
figcaption,
.acts {
  font-size: 12px;
}
.acts {
  display: flex;
  gap: 10px;
}
</style>
