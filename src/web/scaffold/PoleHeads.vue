<script setup lang="ts">
import Popover from 'primevue/popover';
import { ref, shallowRef } from 'vue';
import { usePoles } from '../stores/poles.ts';
import { gutter, poleNames, type Column, type PoleKey } from './columns.ts';
import { px } from './room.ts';

/** The heads of the poles; which stand, in which order and how wide is chosen here. */
const props = defineProps<{
  columns: readonly Column[];
  needed: ReadonlySet<PoleKey>;
  remarks: Readonly<Partial<Record<PoleKey, string>>>;
}>();
const poles = usePoles();
const menu = ref<InstanceType<typeof Popover>>();
const stands = (key: PoleKey): boolean => props.columns.some((one) => one.key === key);

const grip = shallowRef<{ key: PoleKey; from: number; width: number; wide: number }>();
function take(event: PointerEvent, column: Column): void {
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  const wide = poles.plan.find(({ key }) => key === column.key)!.wide;
  grip.value = { key: column.key, from: event.clientX, width: column.width, wide };
}
function pull(event: PointerEvent): void {
  const held = grip.value;
  if (!held) return;
  const wide = (held.wide * (held.width + event.clientX - held.from)) / held.width;
  const now = poles.plan.find(({ key }) => key === held.key)!.wide;
  poles.widen(held.key, wide - now);
}
</script>

<template>
  <div class="heads">
    <button
      class="choose"
      :style="{ width: px(gutter.mini + gutter.pennant + gutter.time - 8) }"
      aria-haspopup="dialog"
      data-keys="O"
      @click="menu?.toggle($event)"
    >
      Poles
    </button>
    <span
      v-for="one in columns"
      :key="one.key"
      class="head one-line"
      :style="{ left: px(one.left), width: px(one.width - 8) }"
      :title="remarks[one.key] ? `${one.name}: ${remarks[one.key]}` : one.name"
      >{{ one.name }}<small v-if="remarks[one.key]" class="soft">&nbsp;{{ remarks[one.key] }}</small></span
    >
    <i
      v-for="one in columns"
      :key="`grip ${one.key}`"
      class="grip"
      aria-hidden="true"
      :style="{ left: px(one.left + one.width - 8) }"
      @pointerdown="take($event, one)"
      @pointermove="pull"
      @pointerup="grip = undefined"
    />
    <Popover ref="menu" aria-label="Poles: which stand, in which order, how wide">
      <ul class="poles">
        <li v-for="(pole, i) in poles.plan" :key="pole.key">
          <label
            ><input
              type="checkbox"
              :checked="stands(pole.key)"
              @change="poles.show(pole.key, ($event.target as HTMLInputElement).checked ? 'yes' : 'no')"
            />
            {{ poleNames[pole.key] }}</label
          >
          <small class="soft">{{
            pole.show === 'by need' ? (needed.has(pole.key) ? '' : 'not needed here') : 'chosen'
          }}</small>
          <button
            :disabled="i === 0"
            :aria-label="`${poleNames[pole.key]} further left`"
            @click="poles.move(pole.key, -1)"
          >
            ◂
          </button>
          <button
            :disabled="i === poles.plan.length - 1"
            :aria-label="`${poleNames[pole.key]} further right`"
            @click="poles.move(pole.key, 1)"
          >
            ▸
          </button>
          <button :aria-label="`${poleNames[pole.key]} narrower`" @click="poles.widen(pole.key, -0.25)">−</button>
          <button :aria-label="`${poleNames[pole.key]} wider`" @click="poles.widen(pole.key, 0.25)">+</button>
        </li>
      </ul>
      <button class="plain sea" @click="poles.asItWas()">As it was</button>
    </Popover>
  </div>
</template>

<style scoped>
.heads {
  position: relative;
  height: 28px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
.head {
  position: absolute;
  top: 5px;
  font-weight: 600;
  font-size: 12px;
  color: var(--soft);
}
.head small {
  font-weight: 400;
}
.choose {
  position: absolute;
  left: 4px;
  top: 3px;
  height: 22px;
  border: 1px solid var(--line);
  background: var(--ground);
  font-size: 12px;
  cursor: pointer;
}
.grip {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: col-resize;
}
.grip:hover {
  background: var(--line);
}
.poles {
  margin-bottom: 8px;
}
.poles li {
  display: grid;
  grid-template-columns: 120px 96px repeat(4, 26px);
  gap: 3px;
  align-items: center;
  padding: 1px 0;
}
.poles label {
  display: flex;
  gap: 7px;
}
.poles button {
  border: 1px solid var(--line);
  background: var(--ground);
  cursor: pointer;
  height: 22px;
}
.poles button:disabled {
  opacity: 0.4;
  cursor: default;
}
</style>
