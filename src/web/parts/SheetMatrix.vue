<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { calledOf, marks, type Mark, type SheetAttempt, type SheetRow } from '../../core/sheet.ts';
import { duration } from '../words.ts';
import OutcomeGlyph from './OutcomeGlyph.vue';

const glyphs: Partial<Record<Mark, string>> = {
  [marks.recording]: 'unreported',
  [marks.doubtful]: 'doubtful',
  [marks.against]: 'against the rules',
  [marks.told]: 'told of',
};
const glyphOf = (attempt: SheetAttempt): string => glyphs[attempt[9]] ?? attempt[3];

/** Tests down, environments across, every attempt a glyph in order. Only the rows in sight are in the page. */
const props = defineProps<{
  rows: SheetRow[];
  environments: string[];
  at: { row: number; column: number };
  receiving: boolean;
}>();
const emit = defineEmits<{ choose: [row: number, column: number]; place: [file: string, attempt: SheetAttempt] }>();

const rowHeight = 39;
const spare = 8;
const table = ref<HTMLTableElement>();
const from = ref(0);
const until = ref(40);
let box: HTMLElement | null = null;

function look(): void {
  if (!table.value || !box) return;
  const top = box.scrollTop - (table.value.offsetTop - box.offsetTop);
  from.value = Math.max(0, Math.floor(top / rowHeight) - spare);
  until.value = Math.ceil((top + box.clientHeight) / rowHeight) + spare;
}
onMounted(() => {
  box = table.value!.closest('main');
  box?.addEventListener('scroll', look, { passive: true });
  window.addEventListener('resize', look);
  look();
});
onBeforeUnmount(() => {
  box?.removeEventListener('scroll', look);
  window.removeEventListener('resize', look);
});
watch(() => props.rows, look, { flush: 'post' });
watch(
  () => props.at.row,
  (row) => {
    if (!box || !table.value) return;
    const top = table.value.offsetTop - box.offsetTop + 28 + row * rowHeight;
    if (top < box.scrollTop + 30) box.scrollTop = top - 60;
    else if (top + rowHeight > box.scrollTop + box.clientHeight)
      box.scrollTop = top + rowHeight + 10 - box.clientHeight;
  },
);
const shown = computed(() => props.rows.slice(from.value, until.value).map((row, i) => ({ row, r: from.value + i })));
const most = 12;
const over = ref('');

function drop(event: DragEvent, cell: SheetAttempt[], key: string): void {
  over.value = over.value === key ? '' : over.value;
  const file = event.dataTransfer?.getData('application/x-iskel-file');
  if (!file || !cell.length) return;
  event.preventDefault();
  event.stopPropagation();
  const on = (event.target as HTMLElement).closest<HTMLElement>('[data-attempt]')?.dataset.attempt;
  emit(
    'place',
    file,
    cell.find((attempt) => attempt[4] === on) ??
      cell.find((attempt) => attempt[3] === 'failed' || attempt[3] === 'errored') ??
      cell.at(-1)!,
  );
}
</script>

<template>
  <table ref="table" class="matrix" :aria-rowcount="rows.length + 1">
    <thead>
      <tr>
        <th scope="col" class="soft">test</th>
        <th v-for="environment in environments" :key="environment" scope="col">{{ environment }}</th>
        <th scope="col" class="soft time">longest</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-if="from"
        aria-hidden="true"
        class="gap"
        :style="{ height: `${Math.min(from, rows.length) * rowHeight}px` }"
      />
      <tr v-for="{ row, r } in shown" :key="row.id" :class="{ chosen: r === at.row }" :aria-rowindex="r + 2">
        <th scope="row">
          <small class="soft one-line">{{ row.suite || '—' }}</small><span
            class="one-line"
            :class="{ strong: row.standing !== 'passed' }"
            :title="row.title"
            >{{ row.title }}</span
          >
        </th>
        <td
          v-for="(cell, c) in row.cells"
          :key="c"
          class="cell"
          :class="{ chosen: r === at.row && c === at.column, over: over === `${r} ${c}` }"
          @click="emit('choose', r, c)"
          @dragover="receiving && cell.length && ($event.preventDefault(), (over = `${r} ${c}`))"
          @dragleave="over = ''"
          @drop="drop($event, cell, `${r} ${c}`)"
        >
          <RouterLink
            v-for="attempt in cell.slice(0, most)"
            :key="attempt[4]"
            :to="`/attempts/${attempt[4]}`"
            :data-attempt="attempt[4]"
            draggable="false"
            :aria-label="`${row.title}, attempt ${attempt[2]}, ${calledOf(attempt)}`"
            :title="`attempt ${attempt[2]}: ${calledOf(attempt)}`"
            ><OutcomeGlyph :outcome="glyphOf(attempt)" silent
          /></RouterLink>
          <span v-if="cell.length > most" class="soft">{{ cell.length }}</span>
        </td>
        <td class="time soft">{{ duration(row.durationMs) }}</td>
      </tr>
      <tr
        v-if="until < rows.length"
        aria-hidden="true"
        class="gap"
        :style="{ height: `${(rows.length - until) * rowHeight}px` }"
      />
    </tbody>
  </table>
</template>

<style scoped>
.matrix {
  border-collapse: collapse;
  width: 100%;
  table-layout: fixed;
}
.matrix th {
  text-align: left;
  font-weight: 600;
  padding: 0 10px;
  overflow: hidden;
}
.matrix thead th {
  padding: 5px 10px;
}
.matrix thead th:first-child {
  width: 42%;
}
.matrix tbody th {
  font-weight: 400;
}
.matrix th small,
.matrix th span {
  display: block;
  line-height: 1.3;
}
.matrix th small {
  font-size: 11.5px;
}
.matrix .strong {
  font-weight: 600;
}
.matrix tbody tr:not(.gap) {
  border-bottom: 1px solid var(--line);
  height: 39px;
}
.matrix tbody tr.chosen {
  background: var(--timber-pale);
  box-shadow: inset 3px 0 var(--timber);
}
.cell {
  padding: 0 6px;
  white-space: nowrap;
  overflow: hidden;
}
.cell.chosen {
  box-shadow: inset 0 0 0 1.5px var(--ink);
}
.cell.over {
  background: var(--sea-pale);
  box-shadow: inset 0 0 0 2px var(--sea);
}
.cell a {
  padding: 4px;
  display: inline-block;
  line-height: 1;
}
.time {
  text-align: right !important;
  width: 90px;
  padding-right: 10px;
}
</style>
