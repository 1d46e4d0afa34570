<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { pathOf, shorten } from '../../core/evidence/labels.ts';
import { presenceOf, segmentAt } from '../../core/evidence/lifelines.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { heldOther } from '../scaffold/text-pole.ts';
import { useBench } from '../stores/bench.ts';
import { duration, seconds } from '../words.ts';

/** Everything at the level in words: what the scaffold shows by shapes, for the eye that reads and the ear that listens. */
const bench = useBench();
const now = computed(() => bench.now);
const step = computed(() => {
  const one = now.value.step;
  if (!one) return undefined;
  const over = bench.shown > endOf(one);
  return {
    one,
    words: over ? `ended ${duration(bench.shown - endOf(one))} ago` : `since ${duration(bench.shown - one.at)}`,
  };
});
const window = computed(() => {
  const { looked, front } = bench.looking;
  if (bench.windows.lines.length < 2) return undefined;
  if (!looked) return 'the window it looked at is closed';
  return front && front !== looked
    ? `looks at ${looked.number} of ${bench.windows.lines.length}, while ${front.number} is in front`
    : `looks at ${looked.number} of ${bench.windows.lines.length}, which is in front`;
});
const poll = computed(() => {
  const last = bench.poles.polls.findLast((one) => one.at <= bench.shown);
  const wait = last && bench.byId.get(last.data.wait);
  if (!last || wait?.lane !== 'step' || endOf(wait) + 1 < bench.shown) return undefined;
  const tries = bench.poles.polls.filter((one) => one.data.wait === last.data.wait);
  return {
    last,
    words: `try ${tries.indexOf(last) + 1} of ${tries.length} saw “${shorten(last.data.saw, 60)}”${last.data.ok ? ', which ended it' : ''}`,
    limit: wait.data.limitMs
      ? `${duration(bench.shown - wait.at)} of at most ${duration(wait.data.limitMs)} waited`
      : '',
  };
});
/** Elements worth a line: those that are there, and of the absent ones those the test asked for just now. */
const most = 6;
const lines = computed(() => {
  const asked = now.value.step?.data.locator && locatorKey(now.value.step.data.locator);
  const all = bench.poles.lifelines.flatMap((line) => {
    const segment = segmentAt(line, bench.shown);
    if (!segment) return [];
    const { state } = segment;
    const word = presenceOf(state);
    const own = line.locator === asked || line.locator === bench.failingKey;
    const more = [
      word === 'covered' ? `by ${state.coveredBy}` : '',
      state.count > 1 ? `${state.count} match` : '',
      state.node !== null && state.text ? `reads “${shorten(state.text, 40)}”` : '',
      `for ${duration(bench.shown - segment.from)}`,
    ].filter(Boolean);
    return [{ key: line.locator, name: line.label || line.locator, word, own, more: more.join(', ') }];
  });
  const telling = all.filter(({ word, own }) => own || word !== 'absent').sort((a, b) => Number(b.own) - Number(a.own));
  return { shown: telling.slice(0, most), rest: all.length - Math.min(most, telling.length) };
});
const typed = computed(() => now.value.held && heldOther(now.value.held, bench.poles.planks));
const checks = computed(() => bench.poles.notes.filter((note) => Math.abs(note.at - bench.shown) <= 120));
</script>

<template>
  <section aria-label="At this moment">
    <h2>At {{ seconds(bench.shown) }}</h2>
    <dl>
      <template v-if="step">
        <dt>step</dt>
        <dd>
          {{ step.one.data.label }} <span class="soft">{{ step.words }}</span>
          <small v-if="step.one.data.source" class="mono soft"> {{ step.one.data.source }}</small>
        </dd>
      </template>
      <dt>page</dt>
      <dd class="one-line" :title="now.address">{{ now.address ? pathOf(now.address) : 'none opened yet' }}</dd>
      <template v-if="window">
        <dt>window</dt>
        <dd>{{ window }}</dd>
      </template>
      <template v-if="poll">
        <dt>waiting</dt>
        <dd>
          {{ poll.words }} <span class="soft">{{ poll.limit }}</span>
        </dd>
      </template>
      <template v-if="lines.shown.length">
        <dt>elements</dt>
        <dd>
          <p
            v-for="line in lines.shown"
            :key="line.key"
            class="one-line"
            :title="`${line.name} ${line.word}, ${line.more}`"
          >
            {{ line.name }} <b :class="line.word">{{ line.word }}</b> <span class="soft">{{ line.more }}</span>
          </p>
          <span v-if="lines.rest" class="soft">{{ lines.rest }} more are absent or less telling</span>
        </dd>
      </template>
      <dt>in flight</dt>
      <dd>
        <p v-for="request in now.inFlight.slice(0, 5)" :key="request.id" class="one-line" :title="request.data.url">
          <span class="mono"
            >{{ request.data.method }} {{ request.data.own ? pathOf(request.data.url) : request.data.url }}</span
          >
          {{ ' ' }}
          <span class="soft"
            >for {{ duration(bench.shown - request.at) }} of {{ duration(endOf(request) - request.at) }}</span
          >
        </p>
        <span v-if="now.inFlight.length > 5" class="soft">and {{ now.inFlight.length - 5 }} more</span>
        <span v-if="!now.inFlight.length" class="soft">nothing</span>
      </dd>
      <dt>console</dt>
      <dd>
        <p
          v-for="line in now.console.slice(0, 5)"
          :key="line.id"
          class="mono one-line"
          :class="{ brick: line.data.level === 'error', amber: line.data.level === 'warning' }"
          :title="line.data.text"
        >
          <b v-if="line.data.suppressed">suppressed: </b>{{ line.data.text }}
        </p>
        <span v-if="!now.console.length" class="soft">quiet</span>
      </dd>
      <template v-if="now.focus">
        <dt>focus</dt>
        <dd class="one-line">{{ now.focus.data.label }}</dd>
      </template>
      <template v-if="now.held">
        <dt>field holds</dt>
        <dd :class="{ brick: typed }">
          “{{ now.held.data.text }}” <span class="soft">in {{ now.held.data.label }}</span>
          <b v-if="typed">, typed “{{ typed }}”</b>
        </dd>
      </template>
      <template v-if="checks.length">
        <dt>told</dt>
        <dd>
          <p v-for="note in checks" :key="note.id" :class="{ brick: note.data.ok === false }">
            {{ note.data.label
            }}<template v-if="note.data.ok === false"
              >: expected “{{ note.data.expected }}”, got “{{ note.data.actual }}”</template
            >
          </p>
        </dd>
      </template>
    </dl>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  gap: 3px 8px;
  margin-top: 4px;
  font-size: 12.5px;
}
dt {
  color: var(--soft);
}
.covered,
.absent {
  color: var(--brick-text);
}
</style>
