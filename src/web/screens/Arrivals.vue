<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { causeNames } from '../../core/causes/cause.ts';
import { foldFamilies, type FoldedFamilies } from '../../core/families/first.ts';
import { awaitsVerdict } from '../../core/families/verdict.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import OutcomeBar from '../parts/OutcomeBar.vue';
import FamilyGlyphs from '../parts/FamilyGlyphs.vue';
import Standing from '../parts/Standing.vue';
import Trouble from '../parts/Trouble.vue';
import type { Run } from '../types.ts';
import { moment, plural, sinceText } from '../words.ts';
import ChooseFiles from '../parts/ChooseFiles.vue';
import IntakeBands from '../parts/IntakeBands.vue';
import { useDeliveries } from '../stores/deliveries.ts';
import SpoolNote from '../parts/SpoolNote.vue';
import FirstEvidence from './FirstEvidence.vue';

const router = useRouter();
const deliveries = useDeliveries();
const runs = ref<Run[]>();
const error = ref<unknown>();
const chosen = ref(0);

async function load(): Promise<void> {
  try {
    runs.value = (await api<{ runs: Run[] }>('GET', '/runs')).runs;
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
void load();
useChanges(
  (change) => change.type === 'run' || change.type === 'attempt' || change.type === 'family',
  () => void load(),
);

const rows = computed(() => runs.value ?? []);
useKeys(
  [
    { keys: '↑ ↓', does: 'run' },
    { keys: 'Enter', does: 'open its sheet' },
  ],
  (event) => {
    if (event.key === 'ArrowDown') chosen.value = Math.min(rows.value.length - 1, chosen.value + 1);
    else if (event.key === 'ArrowUp') chosen.value = Math.max(0, chosen.value - 1);
    else if (event.key === 'Enter' && (event.target as HTMLElement).tagName !== 'A' && rows.value[chosen.value])
      void router.push(`/runs/${rows.value[chosen.value]!.id}`);
    else return false;
    document.getElementById(`run-${rows.value[chosen.value]?.id}`)?.scrollIntoView({ block: 'nearest' });
    return true;
  },
);

function says(run: Run): string {
  const { failed, errored, flaky, tests, interrupted, against } = run.totals;
  const parts: string[] = [];
  if (failed + errored) parts.push(`${failed + errored} of ${plural(tests, 'test')} failed`);
  if (flaky) parts.push(`${plural(flaky, 'test')} passed only on retry`);
  if (interrupted) parts.push(`${interrupted} interrupted`);
  if (!parts.length)
    parts.push(run.recording ? `${plural(tests, 'test')} so far` : `all ${plural(tests, 'test')} passed`);
  if (against) parts.push(`${against} passed against the rules`);
  return parts.join(', ');
}
const few = 4;
const folded = (run: Run): FoldedFamilies => foldFamilies(run.families, few, Date.now());
const awaiting = (run: Run): number =>
  run.families.filter((family) => awaitsVerdict(family.verdict, Date.now())).length;
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="runs && runs.length === 0">
    <div class="arrivals first">
      <SpoolNote />
      <IntakeBands v-if="deliveries.all.length" />
    </div>
    <FirstEvidence />
  </div>
  <div v-else class="arrivals">
    <h1 class="spoken">Arrivals</h1>
    <ChooseFiles class="ways" />
    <SpoolNote />
    <IntakeBands />
    <article v-for="(run, i) in rows" :id="`run-${run.id}`" :key="run.id" class="run" :class="{ chosen: i === chosen }">
      <header>
        <div class="what">
          <h2>
            <RouterLink :to="`/runs/${run.id}`" @focus="chosen = i">{{ run.name }}</RouterLink>
          </h2>
          <p class="soft">
            {{ moment(run.startedAt)
            }}<template v-if="run.commit">
              · commit <span class="mono">{{ run.commit.slice(0, 7) }}</span></template
            ><template v-if="run.branch"> · {{ run.branch }}</template
            ><span v-if="run.recording" class="live"> · recording now</span>
          </p>
        </div>
        <p class="says">{{ says(run) }}</p>
        <OutcomeBar :totals="run.totals" class="bar" />
        <p class="soft awaits">
          {{
            awaiting(run)
              ? `${awaiting(run)} await${awaiting(run) === 1 ? 's' : ''} a verdict`
              : run.families.length
                ? 'all have a verdict'
                : ''
          }}
        </p>
      </header>
      <ul v-if="run.families.length">
        <li v-for="family in folded(run).shown" :key="family.id">
          <FamilyGlyphs :family="family" />
          <RouterLink :to="`/dossiers/${family.id}`" class="sentence one-line" :title="family.sentence">{{
            family.sentence
          }}</RouterLink>
          <span class="since" :class="{ amber: family.since !== 'known' }">{{ sinceText(family, run.startedAt) }}</span>
          <span class="cause one-line">{{
            family.leading ? causeNames[family.leading.cause] : 'no cause stands out'
          }}</span>
          <Standing :verdict="family.verdict" class="standing" />
        </li>
        <li v-if="folded(run).folded.length" class="more">
          <RouterLink :to="{ path: `/runs/${run.id}`, query: { families: 'all' } }">{{ folded(run).words }}</RouterLink>
        </li>
      </ul>
    </article>
  </div>
</template>

<style scoped>
.arrivals {
  padding: 14px 18px;
}
.arrivals.first {
  padding-bottom: 0;
}
.arrivals.first:empty {
  display: none;
}
.ways {
  margin-bottom: 10px;
}
.run {
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 4px solid var(--steel);
  margin-bottom: 12px;
}
.run.chosen {
  border-left-color: var(--timber);
}
header {
  display: grid;
  grid-template-columns: minmax(220px, 1.1fr) minmax(200px, 1.2fr) 260px 130px;
  gap: 18px;
  align-items: center;
  padding: 10px 14px;
}
h2 {
  font-size: 15px;
  color: var(--ink);
}
h2 a {
  color: inherit;
}
.says {
  font-weight: 500;
}
.live {
  color: var(--sea);
}
.awaits {
  text-align: right;
}
ul {
  border-top: 1px solid var(--line);
  padding: 4px 0;
}
li {
  display: grid;
  grid-template-columns: 108px minmax(0, 1fr) 104px 178px 176px;
  gap: 14px;
  align-items: center;
  padding: 5px 14px;
}
li.more {
  display: block;
  padding-left: 136px;
}
.sentence {
  color: var(--ink);
  font-weight: 500;
}
.since {
  font-size: 12px;
  color: var(--soft);
}
.since.amber {
  color: var(--amber-text);
}
.standing {
  font-size: 12px;
  min-width: 0;
  overflow: hidden;
}
</style>
