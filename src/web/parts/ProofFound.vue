<script setup lang="ts">
import { computed } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { Side } from '../../core/trials/proof.ts';
import type { ProofView } from '../types.ts';
import { duration, percent } from '../words.ts';
import TextDifference from './TextDifference.vue';
import TrialMarks from './TrialMarks.vue';

/** What trials have shown of a remedy: each side with its interval and its trials, the changed lines, and what it costs. */
const props = defineProps<{ proof: ProofView }>();

const running = computed(() => props.proof.state === 'running' || props.proof.state === 'waiting');
const played = computed(() => props.proof.trials.filter(({ verdict }) => verdict !== 'pending').length);
const sides = computed(() => {
  const { before, after, plain, wanted, stressors } = props.proof;
  const provoked: [Side, string, typeof before][] = [
    ['before', 'as it was', before],
    ['after', 'with the remedy', after],
  ];
  const free: [Side, string, typeof before][] = [
    ['plain before', 'as it was', plain.before],
    ['plain after', 'with the remedy', plain.after],
  ];
  const rows = (list: typeof provoked) =>
    list.map(([side, words, found]) => ({
      side,
      words,
      ...found,
      wanted: wanted[side],
      trials: props.proof.trials.filter((one) => one.side === side),
    }));
  return [
    { title: stressors.length ? `Provoked: ${props.proof.under}` : 'As it is', rows: rows(provoked) },
    ...(stressors.length ? [{ title: 'With nothing wrong', rows: rows(free) }] : []),
  ];
});
const cost = computed(() => {
  const { cost: by, plain } = props.proof;
  if (!by || plain.before.medianMs === null) return undefined;
  const whole = `of ${duration(plain.before.medianMs)}`;
  if (by.low <= 0 && by.high >= 0)
    return `When nothing is wrong no cost can be measured: the lines it changes take between ${signed(by.low)} and ${signed(by.high)}, in a test ${whole}.`;
  const [least, most] = [by.low, by.high].map(Math.abs).sort((a, b) => a - b) as [number, number];
  const share = percent(Math.abs(by.point) / plain.before.medianMs);
  return `When nothing is wrong it makes the test ${duration(Math.abs(by.point))} ${by.point > 0 ? 'longer' : 'shorter'} (${share} ${whole}; between ${duration(least)} and ${duration(most)}), measured where it changes it.`;
});
const signed = (ms: number): string => `${duration(Math.abs(ms))} ${ms < 0 ? 'less' : 'more'}`;
/** Words that stand alone. */
const sentence = (words: string): string => `${words[0]!.toUpperCase()}${words.slice(1)}.`;
const at = (share: number): number => 4 + share * 192;
const rateWords = ({ done, rate }: { done: number; rate: { low: number; high: number } }): string =>
  done ? `between ${percent(rate.low)} and ${percent(rate.high)} with 95 % certainty` : 'no trial has ended yet';
</script>

<template>
  <article :class="['proof', proof.verdict]">
    <p class="words" role="status">{{ proof.words }}.</p>
    <p class="soft">
      <template v-if="proof.cause">{{ causeNames[proof.cause] }}. </template>{{ proof.remedyWords }}
    </p>
    <p v-if="running" class="soft">
      Trial {{ Math.min(played + 1, proof.wanted.all) }} of at most {{ proof.wanted.all }}, each side in turn.
      <progress :value="played" :max="proof.wanted.all" aria-label="Trials played" />
    </p>
    <section v-for="part in sides" :key="part.title" :aria-label="part.title">
      <h3>{{ part.title }}</h3>
      <div v-for="row in part.rows" :key="row.side" class="row">
        <span>{{ row.words }}</span>
        <span class="count"
          ><b>{{ row.failed }}</b> of {{ row.done }} fail</span
        >
        <svg viewBox="0 0 200 16" role="img" :aria-label="rateWords(row)">
          <title>{{ rateWords(row) }}</title>
          <path d="M4 8 H196" stroke="var(--line)" stroke-width="2" />
          <path v-for="tick in [0, 0.5, 1]" :key="tick" :d="`M${at(tick)} 4 V12`" stroke="var(--steel)" />
          <template v-if="row.done">
            <path :d="`M${at(row.rate.low)} 8 H${at(row.rate.high)}`" stroke="var(--steel-deep)" stroke-width="5" />
            <circle :cx="at(row.rate.point)" cy="8" r="5" :fill="row.failed ? 'var(--brick)' : 'var(--sea)'" />
          </template>
        </svg>
        <TrialMarks :trials="row.trials" />
      </div>
    </section>
    <p v-if="cost && !running" class="soft">{{ cost }}</p>
    <p v-if="proof.verdict === 'mends'" class="soft">{{ sentence(proof.more.words) }}</p>
    <TextDifference v-if="proof.drillBefore" :before="proof.drillBefore" :after="proof.drillAfter" />
    <p v-if="proof.problem" class="brick">{{ proof.problem }}</p>
  </article>
</template>

<style scoped>
.proof {
  display: grid;
  gap: 8px;
  border-left: 4px solid var(--line);
  padding: 4px 0 4px 12px;
}
.proof.mends {
  border-left-color: var(--sea);
}
.proof.fails,
.proof.breaks {
  border-left-color: var(--brick);
}
.proof.lessens {
  border-left-color: var(--amber);
}
p {
  margin: 0;
}
.words {
  font-size: 14px;
  font-weight: 600;
}
h3 {
  font-size: 12.5px;
  margin: 2px 0;
}
.row {
  display: grid;
  grid-template-columns: 104px 84px minmax(120px, 200px) minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  font-size: 12.5px;
}
.count {
  font-variant-numeric: tabular-nums;
}
progress {
  display: block;
  width: 100%;
  max-width: 460px;
  height: 8px;
  accent-color: var(--sea);
}
</style>
