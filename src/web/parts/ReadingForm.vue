<script setup lang="ts">
import { limitNames, thresholdNames } from '../../core/rules/changed.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import type { Limits } from '../../core/rules/limits.ts';
import type { Thresholds } from '../../core/clues/thresholds.ts';
import type { RulesPreview } from '../types.ts';
import { plural } from '../words.ts';
import LinesField from './LinesField.vue';

/** Whose hosts are, from where on something counts, and how much is kept of one attempt; each with what it would change. */
const rules = defineModel<StandingRules>({ required: true });
defineProps<{ told: RulesPreview | undefined }>();
const thresholds = Object.entries(thresholdNames) as [keyof Thresholds, string][];
const limits = Object.entries(limitNames) as [keyof Limits, string][];
/** What a step of a field is, and its ends, as the server takes them. */
const spans: Record<keyof Thresholds, { min: number; max: number; step: number }> = {
  movedPx: { min: 1, max: 1000, step: 1 },
  slowCommandMs: { min: 5, max: 60_000, step: 5 },
  stretchedBy: { min: 1.1, max: 100, step: 0.1 },
  nearLimit: { min: 0.05, max: 1, step: 0.05 },
};
</script>

<template>
  <section id="hosts" class="tried" aria-label="Hosts">
    <div class="form">
      <h2>Hosts</h2>
      <LinesField
        id="hosts-own"
        v-model="rules.hosts.own"
        label="The application’s own, besides what tests open: a host on each line"
        placeholder="*.lodos.example"
      />
      <LinesField id="hosts-outside" v-model="rules.hosts.outside" label="Outside" placeholder="weather.example" />
    </div>
    <div v-if="told" class="form">
      <p>
        <b>{{
          told.hosts.changed.length
            ? `${plural(told.hosts.changed.length, 'host')} would be called otherwise`
            : `Every host is called as it was in ${plural(told.hosts.of, 'attempt')}`
        }}</b>
      </p>
      <p v-for="one in told.hosts.changed.slice(0, 6)" :key="one.host" class="small">
        <span class="mono">{{ one.host }}</span>: {{ plural(one.requests, 'request') }} in
        {{ plural(one.attempts, 'attempt') }}, then
        {{ one.own ? 'its own' : 'outside' }}
      </p>
      <p class="small soft">It holds for what is recorded and taken in from then on.</p>
    </div>
  </section>
  <section id="thresholds" class="tried" aria-label="Thresholds">
    <div class="form">
      <h2>Thresholds of clues</h2>
      <label v-for="[key, name] in thresholds" :key="key" class="number"
        ><input v-model.number="rules.thresholds[key]" type="number" required v-bind="spans[key]" />
        <span>{{ name }}</span></label
      >
    </div>
    <div v-if="told" class="form">
      <p>
        <b v-if="told.thresholds.of"
          >{{ told.thresholds.changed }} of {{ plural(told.thresholds.of, 'attempt') }} would be read otherwise</b
        >
        <span v-else class="soft">Others are tried here on the latest attempts, failing ones first.</span>
      </p>
      <p v-for="one in told.thresholds.examples" :key="one.attempt" class="small">
        <RouterLink :to="`/attempts/${one.attempt}`">{{ one.title }}</RouterLink>: {{ one.before }} → {{ one.after }}
      </p>
      <p class="small soft">What is judged already stays as it is.</p>
    </div>
  </section>
  <section id="limits" class="tried" aria-label="Limits">
    <div class="form">
      <h2>Limits</h2>
      <label v-for="[key, name] in limits" :key="key" class="number"
        ><input
          v-model.number="rules.limits[key]"
          type="number"
          required
          :min="key === 'events' ? 1000 : 1"
          :max="key === 'events' ? 1_000_000 : 100_000"
        />
        <span>{{ name }}</span></label
      >
    </div>
    <div v-if="told" class="form">
      <p>
        <b>{{
          told.limits.cut
            ? `${told.limits.cut} of ${plural(told.limits.of, 'attempt')} would have been cut short`
            : `None of ${plural(told.limits.of, 'attempt')} would have been cut short`
        }}</b>
      </p>
      <p class="small soft">
        The largest holds {{ plural(told.limits.most.events, 'event') }} and {{ told.limits.most.picturesMb }} MB of
        pictures. Beyond a limit, steps, notes and checks go on.
      </p>
    </div>
  </section>
</template>

<style scoped>
.number {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 12px;
  align-items: baseline;
}
.number input {
  font: inherit;
  width: 96px;
  color: var(--ink);
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 3px 6px;
}
</style>
