<script setup lang="ts" generic="E extends { id: string; at: number }">
import { computed, nextTick, onMounted, ref, watch } from 'vue';
import { useBench } from '../stores/bench.ts';
import { useSay, useTell } from '../tell.ts';
import { plural, seconds } from '../words.ts';
import type { Listed } from './working-list.ts';

/** A list to work with: narrowed, walked through by keys with the level following, copied or saved for the developer. */
const props = defineProps<{
  name: string;
  /** One of what is listed. */
  one: string;
  all: number;
  rows: readonly Listed<E>[];
  /** The choices of the two pickers; an empty second has none. */
  onlyChoices: readonly { value: string; name: string }[];
  fromName: string;
  fromChoices: readonly string[];
  text: (event: E) => string;
  /** Where the whole of it is had as a file. */
  whole: string;
  wholeName: string;
}>();
const bench = useBench();
const tell = useTell();
const say = useSay();
const filter = computed(() => bench.listFilter);
const list = ref<HTMLElement>();
/** Scrolled to; only the rows in sight are in the page. */
const from = ref(0);
const rowHeight = 24;
/** The row nearest before the level. */
const here = computed(() => props.rows.findLastIndex(({ event }) => event.at <= bench.shown + 0.001));
const chosen = computed(() => props.rows[here.value]);

function move(event: KeyboardEvent): void {
  const last = props.rows.length - 1;
  const to: Record<string, number> = {
    ArrowDown: Math.min(last, here.value + 1),
    ArrowUp: Math.max(0, here.value - 1),
    PageDown: Math.min(last, here.value + 10),
    PageUp: Math.max(0, here.value - 10),
    Home: 0,
    End: last,
  };
  if (event.key === 'Escape') bench.side = 'moment';
  else if (event.key === 'c' && !event.ctrlKey && !event.metaKey) void copy();
  else if (to[event.key] !== undefined && last >= 0) {
    // Rows of one moment would never be left by setting the level to it again.
    let next = to[event.key]!;
    const by = next > here.value ? 1 : -1;
    while (props.rows[next + by] && props.rows[next]!.event.at === bench.shown) next += by;
    bench.level = props.rows[next]!.event.at;
  } else return;
  event.preventDefault();
  event.stopPropagation();
}
const inSight = computed(() => {
  const first = Math.max(0, Math.floor(from.value / rowHeight) - 8);
  // As many as the tallest list holds, and some.
  return props.rows.slice(first, first + 44).map((row, i) => ({ row, index: first + i }));
});
function bring(row: number): void {
  const el = list.value;
  if (!el || row < 0) return;
  const top = row * rowHeight;
  if (top < el.scrollTop || top > el.scrollTop + el.clientHeight - 2 * rowHeight)
    el.scrollTop = Math.max(0, top - 4 * rowHeight);
  from.value = el.scrollTop;
}
watch(here, (row) => void nextTick(() => bring(row)));
onMounted(
  () =>
    void nextTick(() => {
      list.value?.focus();
      bring(here.value);
    }),
);

const asText = (): string => props.rows.map(({ event }) => props.text(event)).join('\n');
async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(asText());
    say(`${plural(props.rows.length, props.one)} copied`);
  } catch {
    tell('Not copied', new Error('The browser did not allow it. Save it as a file instead.'));
  }
}
function save(): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([asText()], { type: 'text/plain' }));
  link.download = `${bench.attempt!.id}.${props.name}.txt`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
</script>

<template>
  <section :aria-label="name" class="working">
    <div class="narrow">
      <input v-model="filter.words" type="search" :aria-label="`Words in the ${name}`" placeholder="Words" />
      <select v-model="filter.only" :aria-label="`Which of the ${name}`">
        <option value="">all</option>
        <option v-for="choice in onlyChoices" :key="choice.value" :value="choice.value">{{ choice.name }}</option>
      </select>
      <select v-if="fromChoices.length > 1" v-model="filter.from" :aria-label="fromName">
        <option value="">{{ fromName }}: any</option>
        <option v-for="choice in fromChoices" :key="choice">{{ choice }}</option>
      </select>
      <slot name="more" />
    </div>
    <div class="narrow">
      <label :class="{ soft: !bench.usual?.attempts }"
        ><input v-model="filter.fresh" type="checkbox" :disabled="!bench.usual?.attempts" />
        {{
          bench.usual?.attempts
            ? `new against ${plural(bench.usual.attempts, 'passing attempt')}`
            : 'no passing attempt to compare with'
        }}</label
      >
      <span v-if="bench.range" class="sea"
        >within {{ seconds(bench.range.from) }} to {{ seconds(bench.range.until) }}</span
      >
    </div>
    <div
      v-if="rows.length"
      ref="list"
      class="list mono"
      role="listbox"
      tabindex="0"
      data-keys="through"
      :aria-label="`${name}, ${rows.length} of ${all}`"
      :aria-activedescendant="chosen ? `row-${chosen.event.id}` : undefined"
      @keydown="move"
      @scroll.passive="from = list!.scrollTop"
    >
      <div role="presentation" :style="{ height: `${rows.length * rowHeight}px` }">
        <div
          v-for="{ row, index } in inSight"
          :id="`row-${row.event.id}`"
          :key="row.event.id"
          role="option"
          class="row"
          :class="{ on: index === here, fresh: row.fresh }"
          :style="{ top: `${index * rowHeight}px` }"
          :aria-selected="index === here"
          :aria-setsize="rows.length"
          :aria-posinset="index + 1"
          :title="text(row.event)"
          @click="bench.level = row.event.at"
        >
          <span class="at">{{ (row.event.at / 1000).toFixed(3) }}</span>
          <slot name="row" :event="row.event" />
          <small v-if="row.fresh" class="new">new</small>
        </div>
      </div>
    </div>
    <div
      v-else
      ref="list"
      class="list"
      tabindex="0"
      role="group"
      data-keys="through"
      :aria-label="`${name}, empty`"
      @keydown="move"
    >
      <p class="soft none">
        {{ all ? `None of ${plural(all, one)} is left by this choice.` : `No ${one} was recorded.` }}
      </p>
    </div>
    <slot name="chosen" :event="chosen?.event" />
    <div class="narrow hand">
      <span class="soft" role="status">{{ rows.length }} of {{ plural(all, one) }}</span>
      <button :disabled="!rows.length" @click="copy">Copy for the developer</button>
      <button :disabled="!rows.length" @click="save">Save as text</button>
      <a :href="whole" download>{{ wholeName }}</a>
    </div>
    <p v-if="bench.listed?.more" class="amber">Only the first 10,000 are listed; the file has all.</p>
  </section>
</template>

<style scoped>
.working {
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.narrow {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.narrow input[type='search'],
.narrow select {
  font: inherit;
  color: inherit;
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 2px 5px;
  max-width: 150px;
}
.narrow input[type='search'] {
  flex: 1 1 110px;
  min-width: 0;
}
.hand button {
  border: 1px solid var(--line);
  background: var(--ground);
  padding: 2px 8px;
  cursor: pointer;
}
.list {
  position: relative;
  overflow: auto;
  overflow-x: hidden;
  border: 1px solid var(--line);
  background: var(--ground);
  height: clamp(160px, 42vh, 520px);
}
.row {
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  gap: 8px;
  align-items: center;
  height: 24px;
  padding: 0 6px;
  font-size: 11px;
  cursor: pointer;
  white-space: nowrap;
}
.row.on {
  background: var(--ink);
  color: var(--paper);
}
.row.on :deep(*) {
  color: inherit;
}
.at {
  color: var(--soft);
  flex: none;
}
.new {
  margin-left: auto;
  padding: 0 5px;
  background: var(--amber-pale);
  color: var(--amber-text);
  flex: none;
}
.row.on .new {
  background: none;
}
.none {
  padding: 12px;
  font-family: var(--sans);
}
</style>
