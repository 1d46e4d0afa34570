<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { completionsAt, type Completion } from '../../core/drill/complete.ts';
import type { DrillError } from '../../core/drill/drill.ts';

const text = defineModel<string>({ required: true });
/** @property ready conditions by which the pages of the application tell that they are ready */
const { errors, ready = [] } = defineProps<{ errors: DrillError[]; ready?: string[] }>();

const lineHeight = 19;
const scrolled = ref(0);
const lines = computed(() => text.value.split('\n').length);
const area = useTemplateRef<HTMLTextAreaElement>('area');

/** What may come next, while the list stands open. */
const offered = ref<Completion[]>([]);
const chosen = ref(0);

function offer(): void {
  const caret = area.value?.selectionStart ?? 0;
  offered.value = completionsAt(text.value, caret, ready);
  chosen.value = 0;
}
function close(): void {
  offered.value = [];
}
async function take(one: Completion): Promise<void> {
  const field = area.value;
  if (!field) return;
  const caret = field.selectionStart;
  const from = caret - one.replaces;
  text.value = text.value.slice(0, from) + one.insert + text.value.slice(caret);
  close();
  await nextTick();
  field.focus();
  // Between the quotes of what is to be filled in.
  const end = from + one.insert.length - (one.insert.endsWith('""') ? 1 : 0);
  field.setSelectionRange(end, end);
}
function onKey(event: KeyboardEvent): void {
  if (event.key === ' ' && event.ctrlKey) {
    event.preventDefault();
    return offer();
  }
  if (!offered.value.length) return;
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
  if (step) chosen.value = (chosen.value + step + offered.value.length) % offered.value.length;
  else if (event.key === 'Enter' || event.key === 'Tab') void take(offered.value[chosen.value]!);
  else if (event.key === 'Escape') close();
  else return;
  event.preventDefault();
  event.stopPropagation();
}
/** Typing on narrows what is offered. */
function onInput(): void {
  if (offered.value.length) void nextTick(offer);
}
</script>

<template>
  <div class="paper">
    <div class="numbers mono" aria-hidden="true" :style="{ transform: `translateY(${-scrolled}px)` }">
      <span v-for="n in lines" :key="n" :class="{ wrong: errors.some((e) => e.line === n) }">{{ n }}</span>
    </div>
    <textarea
      ref="area"
      v-model="text"
      class="mono"
      spellcheck="false"
      autocomplete="off"
      aria-label="Text of the drill"
      :style="{ lineHeight: `${lineHeight}px` }"
      :aria-invalid="errors.length > 0"
      aria-describedby="faults"
      :aria-controls="offered.length ? 'offered' : undefined"
      @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
      @keydown="onKey"
      @input="onInput"
      @blur="close"
    />
    <ul v-if="offered.length" id="offered" role="listbox" aria-label="What may come next" class="mono">
      <li
        v-for="(one, i) in offered"
        :key="one.insert"
        role="option"
        :aria-selected="i === chosen"
        :class="{ chosen: i === chosen }"
        @mousedown.prevent="take(one)"
      >
        {{ one.insert }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.paper {
  position: relative;
  display: grid;
  grid-template-columns: 40px 1fr;
  background: var(--paper);
  border: 1px solid var(--line);
  overflow: hidden;
  min-height: 0;
}
.numbers {
  padding: 8px 8px 0 0;
  text-align: right;
  color: var(--soft);
}
.numbers span {
  display: block;
  line-height: 19px;
}
.numbers .wrong {
  background: var(--brick);
  color: var(--paper);
}
textarea {
  border: 0;
  background: none;
  color: var(--ink);
  padding: 8px 10px;
  resize: none;
  white-space: pre;
  font-size: 12.5px;
  min-height: 0;
}
#offered {
  position: absolute;
  right: 0;
  bottom: 0;
  left: 0;
  margin: 0;
  padding: 4px 0;
  max-height: 45%;
  overflow: auto;
  list-style: none;
  font-size: 12.5px;
  background: var(--paper);
  border-top: 2px solid var(--ink);
}
#offered li {
  padding: 1px 12px 1px 50px;
  cursor: pointer;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
#offered .chosen {
  background: var(--ink);
  color: var(--paper);
}
</style>
