<script setup lang="ts">
import { computed, ref } from 'vue';
import { byWorker, neighbours, type Sheet, type SheetAttempt } from '../../core/sheet.ts';
import { duration, seconds } from '../words.ts';
import OutcomeGlyph from './OutcomeGlyph.vue';

/** Who ran after whom and beside whom: time down, one column a worker. */
const props = defineProps<{ sheet: Sheet; from: number; untimed: boolean }>();

const lines = computed(() => byWorker(props.sheet));
const columns = 8;
const shownFrom = ref(0);
const shown = computed(() => lines.value.slice(shownFrom.value, shownFrom.value + columns));
/** Attempts drawn at once; a run of thousands is looked at part by part. */
const part = 400;
const begin = ref(0);
const ordered = computed(() => [...props.sheet.attempts].sort((a, b) => a[5] - b[5]));
const window = computed(() => {
  const first = ordered.value[begin.value]?.[5] ?? props.from;
  const last = ordered.value[Math.min(begin.value + part, ordered.value.length) - 1];
  return {
    from: first,
    until: last ? Math.max(...ordered.value.slice(begin.value, begin.value + part).map((a) => a[5] + a[6])) : first,
  };
});
/** Pixels a millisecond: an attempt of the middle length is a readable bar. */
const scale = computed(() => {
  const lengths = ordered.value
    .slice(begin.value, begin.value + part)
    .map((a) => a[6])
    .sort((a, b) => a - b);
  const middle = Math.max(1, lengths[lengths.length >> 1] ?? 1);
  return Math.min(30 / middle, 24_000 / Math.max(1, window.value.until - window.value.from));
});
const y = (at: number): number => (at - window.value.from) * scale.value;
const inWindow = (a: SheetAttempt): boolean => a[5] + a[6] >= window.value.from && a[5] <= window.value.until;
const chosen = ref('');
const around = computed(() => (chosen.value ? neighbours(lines.value, chosen.value) : undefined));
const besides = computed(() => new Set(around.value?.beside.map((a) => a[4])));
const title = (a: SheetAttempt): string => props.sheet.tests[a[0]]?.title ?? '';
const one = computed(() => props.sheet.attempts.find((a) => a[4] === chosen.value));
const barClass = (a: SheetAttempt): string[] => [
  a[3],
  chosen.value === a[4] ? 'picked' : '',
  besides.value.has(a[4]) ? 'beside' : '',
  around.value?.before?.[4] === a[4] ? 'before' : '',
];
</script>

<template>
  <div class="order">
    <p v-if="untimed" class="soft note">
      The report of this run told no times, so the order is that of the report and nothing can be said of what ran
      beside what.
    </p>
    <div class="look">
      <p v-if="one" class="soft">
        <OutcomeGlyph :outcome="one[3]" silent /> <strong>{{ title(one) }}</strong> began
        {{ seconds(one[5] - from) }} into the run and took {{ duration(one[6]) }}.
        <template v-if="around?.before"
          >On the same worker before it:
          <RouterLink :to="`/attempts/${around.before[4]}`">{{ title(around.before) }}</RouterLink>.</template
        >
        <template v-else>It was the first on its worker.</template>
        {{
          around?.beside.length
            ? `Beside it: ${around.beside.slice(0, 4).map(title).join('; ')}${around.beside.length > 4 ? ` and ${around.beside.length - 4} more` : ''}.`
            : 'Nothing ran beside it.'
        }}
        <RouterLink :to="`/attempts/${one[4]}`">Open its bench</RouterLink>
      </p>
      <p v-else class="soft">Choose an attempt to see what ran before it and beside it.</p>
      <span v-if="ordered.length > part" class="soft pager">
        <button class="plain sea" :disabled="begin === 0" @click="begin = Math.max(0, begin - part)">earlier</button>
        {{ begin + 1 }} to {{ Math.min(begin + part, ordered.length) }} of {{ ordered.length }}
        <button class="plain sea" :disabled="begin + part >= ordered.length" @click="begin += part">later</button>
      </span>
      <span v-if="lines.length > columns" class="soft pager">
        <button class="plain sea" :disabled="shownFrom === 0" @click="shownFrom = Math.max(0, shownFrom - columns)">
          workers before
        </button>
        <button class="plain sea" :disabled="shownFrom + columns >= lines.length" @click="shownFrom += columns">
          workers after
        </button>
      </span>
    </div>
    <div class="lines" :style="{ height: `${y(window.until) + 40}px` }">
      <section
        v-for="(line, i) in shown"
        :key="i"
        :aria-label="line.worker ? `worker ${line.worker}` : `line ${i + 1}`"
      >
        <h2>{{ line.worker ? `worker ${line.worker}` : `line ${shownFrom + i + 1}` }}</h2>
        <button
          v-for="a in line.attempts.filter(inWindow)"
          :key="a[4]"
          class="run-bar"
          :class="barClass(a)"
          :style="{ top: `${26 + y(a[5])}px`, height: `${Math.max(3, a[6] * scale - 1)}px` }"
          :title="`${title(a)}, attempt ${a[2]}: ${a[3]}, ${duration(a[6])}`"
          @click="chosen = a[4]"
        >
          <span v-if="a[6] * scale >= 16" class="one-line">{{ title(a) }}</span>
        </button>
      </section>
    </div>
  </div>
</template>

<style scoped>
.note {
  padding: 6px 4px;
}
.look {
  display: flex;
  gap: 20px;
  min-height: 40px;
  padding: 4px;
}
.look > p {
  flex: 1;
}
.pager {
  white-space: nowrap;
}
.lines {
  display: flex;
  gap: 8px;
}
.lines section {
  position: relative;
  flex: 1;
  max-width: 320px;
  background: linear-gradient(var(--line), var(--line)) center / 1px 100% no-repeat;
}
.lines h2 {
  background: var(--ground);
  position: relative;
}
.run-bar {
  position: absolute;
  left: 0;
  right: 0;
  border: 0;
  border-left: 4px solid var(--sea);
  background: var(--sea-pale);
  padding: 0 6px;
  text-align: left;
  font-size: 11.5px;
  line-height: 15px;
  overflow: hidden;
  cursor: pointer;
}
.run-bar.failed,
.run-bar.errored {
  border-left-color: var(--brick);
  background: var(--brick-pale);
}
.run-bar.skipped,
.run-bar.interrupted,
.run-bar.unreported {
  border-left-color: var(--steel);
  background: var(--fold);
}
.run-bar.picked {
  outline: 2px solid var(--ink);
  z-index: 2;
}
.run-bar.beside,
.run-bar.before {
  outline: 2px dashed var(--timber);
  z-index: 1;
}
.run-bar span {
  display: block;
}
</style>
