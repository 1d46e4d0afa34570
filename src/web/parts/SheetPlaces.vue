<script setup lang="ts">
import { computed } from 'vue';
import { compareEnvironments, type Sheet, type SheetRow } from '../../core/sheet.ts';
import { percent, plural } from '../words.ts';

/** Each environment against all others: what fails only there, and whether that can be chance. */
const props = defineProps<{ sheet: Sheet; rows: SheetRow[] }>();
const compared = computed(() => compareEnvironments(props.sheet, props.rows));
const share = (value: number): string => `${(value * 100).toFixed(2)}%`;
const chance = (p: number): string => (p < 0.001 ? 'p under 0.001' : `p ${p.toFixed(3)}`);
const says = (p: number): string => (p < 0.05 ? 'more than chance explains' : 'could be chance');
</script>

<template>
  <p v-if="sheet.environments.length < 2" class="soft none">
    This run has one environment. When a run brings several browsers, sizes or places, they are compared here over the
    tests they have in common.
  </p>
  <div v-else class="places">
    <section v-for="one in compared" :key="one.environment">
      <header>
        <h2>{{ one.environment }}</h2>
        <p>
          <strong>{{ one.failed }} of {{ one.of }}</strong> attempts failed, {{ percent(one.rate.low) }} to
          {{ percent(one.rate.high) }}; elsewhere {{ one.otherFailed }} of {{ one.otherOf }},
          {{ percent(one.otherRate.low) }} to {{ percent(one.otherRate.high) }}
        </p>
        <span class="track" aria-hidden="true">
          <i
            class="range other"
            :style="{ left: share(one.otherRate.low), width: share(one.otherRate.high - one.otherRate.low) }"
          />
          <i class="range" :style="{ left: share(one.rate.low), width: share(one.rate.high - one.rate.low) }" />
          <b class="other" :style="{ left: share(one.otherRate.point) }" /><b
            :style="{ left: share(one.rate.point) }"
          />
        </span>
        <p class="soft">{{ chance(one.p) }}, {{ says(one.p) }}</p>
      </header>
      <ul v-if="one.onlyHere.length">
        <li v-for="test in one.onlyHere.slice(0, 20)" :key="test.test">
          <RouterLink :to="`/attempts/${test.attempt}`" class="one-line">{{ test.title }}</RouterLink>
          <span class="soft one-line">{{ test.suite }}</span>
          <span>fails only here: {{ test.failed }} of {{ test.of }}, elsewhere 0 of {{ test.elsewhere }}</span>
          <span class="soft"
            >{{ chance(test.p) }} ·
            <RouterLink
              :to="{ path: '/contrast', query: { failing: test.attempt, with: 'family', where: 'elsewhere' } }"
              >what differs</RouterLink
            ></span
          >
        </li>
        <li v-if="one.onlyHere.length > 20" class="soft">and {{ plural(one.onlyHere.length - 20, 'test') }} more</li>
      </ul>
      <p v-else class="soft nothing">Nothing fails only here.</p>
    </section>
    <p class="soft">
      Counted over tests that ran in this environment and in another one. Intervals are 95 % (Wilson), p is Fisher’s
      exact test, two-sided.
    </p>
  </div>
</template>

<style scoped>
.none {
  padding: 24px 4px;
}
.places section {
  background: var(--paper);
  border: 1px solid var(--line);
  margin-bottom: 10px;
}
header {
  display: grid;
  grid-template-columns: 240px minmax(0, 1fr) 220px 220px;
  gap: 16px;
  align-items: center;
  padding: 8px 12px;
}
header h2 {
  color: var(--ink);
}
.track {
  position: relative;
  height: 22px;
  border-bottom: 1px solid var(--line);
}
.track .range {
  position: absolute;
  top: 2px;
  height: 6px;
  background: var(--brick-pale);
}
.track .range.other {
  top: 12px;
  background: var(--fold);
}
.track b {
  position: absolute;
  top: 1px;
  width: 8px;
  height: 8px;
  margin-left: -4px;
  border-radius: 50%;
  background: var(--brick);
}
.track b.other {
  top: 11px;
  background: var(--steel-deep);
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 0.8fr) 260px 110px;
  gap: 14px;
  padding: 4px 12px;
  border-top: 1px solid var(--line);
}
.nothing {
  padding: 2px 12px 8px;
}
</style>
