<script setup lang="ts">
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import InputText from 'primevue/inputtext';
import { useToast } from 'primevue/usetoast';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { causeNames, type CauseCode } from '../../core/causes/cause.ts';
import type { FamilySuspect } from '../../core/causes/family.ts';
import type { Decision } from '../../core/families/decision.ts';
import { awaitsVerdict } from '../../core/families/verdict.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import { useTell } from '../tell.ts';
import BalanceRow from '../parts/BalanceRow.vue';
import RunAgain from '../parts/RunAgain.vue';
import OneFamilyOrTwo, { type Moved } from '../parts/OneFamilyOrTwo.vue';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import OwnHypotheses from '../parts/OwnHypotheses.vue';
import ReadySigns from '../parts/ReadySigns.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import VerdictPanel from '../parts/VerdictPanel.vue';
import WhatToDo from '../parts/WhatToDo.vue';
import type { AdviceAnswer, Family, PageReadiness, Run, Series, SeriesView, Verdict } from '../types.ts';
import { moment, percent, plural } from '../words.ts';

interface DossierView extends Moved {
  runs: Run[];
  series: Series[];
  speaking: string | null;
  suspects: FamilySuspect[];
}

const route = useRoute();
const router = useRouter();
const toast = useToast();
const tell = useTell();
const id = String(route.params.id);
const family = ref<DossierView>();
const told = ref<AdviceAnswer>();
const ready = ref<PageReadiness | null>(null);
const series = ref<SeriesView[]>([]);
const error = ref<unknown>();
const chosen = ref(0);
const clearing = ref<CauseCode | null>(null);
const reason = ref('');
const again = ref(false);
/** Its tests, to be run again. */
const choices = computed(() => {
  const tests = [...new Set(family.value?.attempts.map(({ test }) => test.id))];
  return [{ words: `the tests that failed so: ${plural(tests.length, 'test')}`, tests }];
});

async function load(): Promise<void> {
  try {
    const one = await api<DossierView>('GET', `/families/${id}`);
    series.value = await Promise.all(one.series.map((s) => api<SeriesView>('GET', `/series/${s.id}`)));
    family.value = one;
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
/** Drawn from other attempts, which takes a moment; what stands above does not wait for it. */
async function loadAdvice(): Promise<void> {
  const speaking = family.value?.speaking;
  if (!speaking) return;
  try {
    const [advice, where] = await Promise.all([
      api<AdviceAnswer>('GET', `/attempts/${speaking}/advice`),
      api<{ page: PageReadiness | null }>('GET', `/attempts/${speaking}/readiness`).catch(() => ({ page: null })),
    ]);
    told.value = advice;
    ready.value = where.page;
  } catch (problem) {
    tell('What to do could not be drawn', problem);
  }
}
// Trials that come in one by one change nothing of it.
watch(
  () => [family.value?.speaking, ...(family.value?.verdict.cleared.map(({ cause }) => cause) ?? [])].join(),
  () => void loadAdvice(),
);
void load();
useChanges(
  (change) => (change.type === 'family' && change.id === id) || change.type === 'series' || change.type === 'attempt',
  () => void load(),
  500,
);

/** Suspects worth a row: those that something speaks for, that are likely all the same, or that people decided about. */
const worthARow = 0.05;
const rows = computed(() => {
  const verdict = family.value?.verdict;
  return (family.value?.suspects ?? [])
    .filter(
      (s) =>
        // What trials tell speaks for many causes alike.
        s.for.some(({ code }) => !code.startsWith('provoked-by-')) ||
        s.probability >= worthARow ||
        verdict?.confirmed === s.cause ||
        verdict?.cleared.some((c) => c.cause === s.cause),
    )
    .slice(0, 8);
});
const places = computed(() =>
  plural(new Set(family.value?.attempts.map((a) => a.environment.key)).size, 'environment'),
);

type Made = Pick<Decision, 'kind'> & Partial<Decision>;
/** What a decision is called once it is taken. */
const taken = ({ kind, cause = null, text = '', about }: Made): string =>
  ({
    confirm: `${cause && causeNames[cause]}: confirmed`,
    clear: `${cause && causeNames[cause]}: cleared`,
    stand: `${cause && causeNames[cause]}: stands again`,
    note: 'Note kept',
    own: text || about ? 'Cause confirmed' : 'Cause withdrawn',
    owner: text ? `${text} has it` : 'Nobody has it',
    state: `It is ${text}`,
    link: 'Link kept',
    unlink: 'Link removed',
    suppose: 'Written down',
    'speaks-for': 'Pinned for it',
    'speaks-against': 'Pinned against it',
    strike: 'Struck out',
    restore: 'It stands again',
    moment: 'Moment kept',
    unpin: 'Taken off',
  })[kind];

async function decide(made: Made): Promise<void> {
  try {
    const { verdict } = await api<{ verdict: Verdict }>('POST', `/families/${id}/decisions`, made);
    if (family.value) family.value.verdict = verdict;
    toast.add({ severity: 'success', summary: taken(made), detail: 'U takes it back', life: 4000 });
  } catch (problem) {
    tell('Nothing was changed', problem);
  }
}
async function undo(): Promise<void> {
  if (!family.value?.verdict.last) return;
  try {
    const { verdict } = await api<{ verdict: Verdict }>('POST', `/families/${id}/undo`);
    family.value.verdict = verdict;
    toast.add({ severity: 'info', summary: 'Taken back', life: 3000 });
  } catch (problem) {
    tell('Nothing was changed', problem);
  }
}
/** To the dossier before or after this one among those that await somebody; this one may have its verdict by now. */
async function walk(way: 1 | -1): Promise<void> {
  try {
    const { families } = await api<{ families: Family[] }>('GET', '/families');
    const queue = families.filter((one) => one.id === id || awaitsVerdict(one.verdict, Date.now()));
    const next = queue[queue.findIndex((one) => one.id === id) + way];
    await router.push(next ? `/dossiers/${next.id}` : '/dossiers');
  } catch (problem) {
    tell('The next dossier could not be found', problem);
  }
}
async function drill(): Promise<void> {
  try {
    const made = await api<{ id: string }>('POST', '/drills', { attemptId: family.value?.speaking });
    await router.push(`/drills/${made.id}`);
  } catch (problem) {
    tell('Nothing was changed', problem);
  }
}
function confirmClear(): void {
  if (clearing.value) void decide({ kind: 'clear', cause: clearing.value, text: reason.value });
  clearing.value = null;
  reason.value = '';
}

useKeys(
  [
    { keys: '↑ ↓', does: 'suspect' },
    { keys: 'Enter', does: 'confirm' },
    { keys: 'X', does: 'clear' },
    { keys: 'B', does: 'bench' },
    { keys: 'D', does: 'drill' },
    { keys: 'A', does: 'its tests again' },
    { keys: 'H', does: 'hand over' },
    { keys: 'U', does: 'undo' },
    { keys: 'S W N', does: 'state, own cause, note' },
    { keys: '[ ]', does: 'next that awaits a verdict' },
  ],
  (event) => {
    const suspect = rows.value[chosen.value];
    switch (event.key) {
      case 'ArrowDown':
        chosen.value = Math.min(rows.value.length - 1, chosen.value + 1);
        return true;
      case 'ArrowUp':
        chosen.value = Math.max(0, chosen.value - 1);
        return true;
      case 'Enter':
        if ((event.target as HTMLElement).closest('a, button') || !suspect) return false;
        void decide({ kind: 'confirm', cause: suspect.cause });
        return true;
    }
    switch (event.key.toLowerCase()) {
      case 'x':
        clearing.value = suspect?.cause ?? null;
        return true;
      case 'b':
        if (family.value?.speaking) void router.push(`/attempts/${family.value.speaking}`);
        return true;
      case 'd':
        void drill();
        return true;
      case 'a':
        again.value = true;
        return true;
      case 'h':
        if (family.value?.speaking) void router.push(`/attempts/${family.value.speaking}/hand-over`);
        return true;
      case 'u':
        void undo();
        return true;
      case 's':
      case 'w':
      case 'n':
        document.getElementById({ s: 'state', w: 'own', n: 'note' }[event.key.toLowerCase()]!)?.focus();
        return true;
      case '[':
        void walk(-1);
        return true;
      case ']':
        void walk(1);
        return true;
    }
    return false;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="family">
    <Strip :title="family.sentence" edge="brick">
      <template #crumbs><RouterLink to="/dossiers">Dossiers</RouterLink> / {{ family.id }}</template>
      <div class="about soft">
        <p>
          first seen {{ moment(family.firstAt) }} · {{ plural(family.attempts.length, 'attempt') }}, {{ places }} ·
          <RouterLink :to="`/dossiers/${id}/history`">its history</RouterLink>
        </p>
        <p class="glyphs">
          <RouterLink
            v-for="attempt in family.attempts.slice(0, 14)"
            :key="attempt.id"
            :to="`/attempts/${attempt.id}`"
            :aria-label="`${attempt.test.title}, attempt ${attempt.number}, ${attempt.outcome}`"
            ><OutcomeGlyph :outcome="attempt.outcome" silent
          /></RouterLink>
        </p>
      </div>
    </Strip>
    <div class="halves">
      <section aria-label="Suspects">
        <div class="heads soft">
          <h2>Suspects</h2>
          <span class="left">against</span><span>for</span>
        </div>
        <p v-if="!rows.length" class="none soft">
          Nothing recorded speaks for or against any cause. Recorded through <code>/wd</code>, the next failure will
          tell more.
        </p>
        <BalanceRow
          v-for="(suspect, i) in rows"
          :key="suspect.cause"
          :suspect="suspect"
          :verdict="family.verdict"
          :chosen="i === chosen"
          @confirm="decide({ kind: 'confirm', cause: suspect.cause })"
          @clear="clearing = suspect.cause"
          @stand="decide({ kind: 'stand', cause: suspect.cause })"
        />
        <OwnHypotheses :verdict="family.verdict" :series="series" @decide="decide" />
        <section v-if="told && family.speaking" class="what" aria-label="What to do">
          <h2>What to do</h2>
          <WhatToDo :advice="told.advice" :from="told.from" :attempt="family.speaking" />
        </section>
        <section v-if="ready" class="what" aria-label="When its page is ready">
          <h2>
            When <code>{{ ready.page }}</code> is ready
          </h2>
          <ReadySigns :page="ready" />
        </section>
      </section>
      <div class="right">
        <VerdictPanel :verdict="family.verdict" @decide="decide" @undo="undo" />
        <section class="panel" aria-label="Trials">
          <h2>Trials</h2>
          <p v-if="!series.length" class="soft">
            Not replayed yet. A drill does what the failing attempt did, without the test’s code, and tells how often it
            fails.
          </p>
          <RouterLink v-for="s in series" :key="s.id" :to="`/drills/${s.drillId}?series=${s.id}`" class="series">
            <span class="glyphs"
              ><OutcomeGlyph
                v-for="trial in s.trials.slice(0, 40)"
                :key="trial.id"
                :outcome="trial.outcome"
                :size="9"
                silent
            /></span>
            <span
              >{{ s.failed }} of {{ s.done }} fail the same way, {{ percent(s.rate.low) }} to
              {{ percent(s.rate.high) }}</span
            >
          </RouterLink>
          <div class="acts">
            <Button label="Make a drill" size="small" :disabled="!family.speaking" @click="drill" />
            <Button label="Run its tests again" size="small" severity="secondary" @click="again = true" />
            <RouterLink v-if="family.speaking" :to="`/attempts/${family.speaking}`" class="bench-link"
              >Open the bench</RouterLink
            >
          </div>
        </section>
        <section v-if="family.speaking" class="panel" aria-label="Hand over">
          <h2>Hand over</h2>
          <p class="soft">
            One page with the screen, the steps, the suspects and what to do, for somebody who has no Iskel; the same as
            Markdown or text for a tracker.
          </p>
          <p>
            <RouterLink :to="`/attempts/${family.speaking}/hand-over`">Look at the page and hand it over</RouterLink>
          </p>
        </section>
        <OneFamilyOrTwo :family="family" @changed="load" />
      </div>
    </div>
    <RunAgain v-model:open="again" :choices="choices" />
    <Dialog
      :visible="clearing !== null"
      modal
      :header="clearing ? `Clear “${causeNames[clearing]}”` : ''"
      :style="{ width: '28rem' }"
      @update:visible="clearing = null"
    >
      <form class="clear" @submit.prevent="confirmClear">
        <label for="reason">Why is it not this? The reason is kept with the dossier.</label>
        <InputText id="reason" v-model="reason" autofocus fluid placeholder="press point was free in all attempts" />
        <Button type="submit" label="Clear this suspect" />
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.about {
  text-align: right;
  display: grid;
  gap: 6px;
}
/* A link amid other words is told by more than its colour. */
.about p:first-child a {
  text-decoration: underline;
  text-underline-offset: 3px;
}
.about .glyphs {
  justify-content: flex-end;
}
.glyphs {
  display: flex;
  gap: 5px;
  flex-wrap: wrap;
  align-items: center;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.55fr) minmax(320px, 1fr);
  gap: 18px;
  padding: 12px 18px;
}
.heads {
  display: grid;
  grid-template-columns: 239px minmax(0, 0.8fr) minmax(0, 1fr);
  border-bottom: 1px solid var(--line);
  padding-bottom: 4px;
}
.heads span {
  padding: 0 8px;
  font-size: 12px;
}
.heads .left {
  text-align: right;
}
.what {
  padding: 14px 13px;
  display: grid;
  gap: 8px;
}
.none {
  padding: 18px 4px;
}
.right {
  display: grid;
  gap: 14px;
  align-content: start;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
.series {
  color: var(--ink);
  display: grid;
  gap: 4px;
  padding: 4px 0;
}
.clear {
  display: grid;
  gap: 10px;
}
</style>
