<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { causeNames } from '../../core/causes/cause.ts';
import { frameText } from '../../core/failures/stack.ts';
import { againstWords } from '../../core/rules/against.ts';
import { api } from '../api.ts';
import { useBenchAddress } from '../bench-address.ts';
import Exhibit from '../exhibit/Exhibit.vue';
import KeepMoment from '../exhibit/KeepMoment.vue';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import { useTell } from '../tell.ts';
import OutcomeGlyph from '../parts/OutcomeGlyph.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';
import Scaffold from '../scaffold/Scaffold.vue';
import type { Side } from '../stores/bench-lists.ts';
import { useBench } from '../stores/bench.ts';
import { useMoves } from '../stores/bench-moves.ts';
import { levels } from '../../core/keeping/keeping.ts';
import { letGoWords } from '../../core/keeping/words.ts';
import { duration, moment, plural, probability } from '../words.ts';

const route = useRoute();
const router = useRouter();
const tell = useTell();
const bench = useBench();
const moves = useMoves();
onBeforeUnmount(() => moves.stop());
const id = String(route.params.id);
const error = ref<unknown>();
const loaded = ref(false);

const address = useBenchAddress(id, loaded);
async function load(first = false): Promise<void> {
  try {
    await bench.load(id);
    error.value = undefined;
    if (first) {
      address.restore();
      loaded.value = true;
    }
  } catch (problem) {
    error.value = problem;
  }
}
void load(true);
useChanges(
  (change) => change.type === 'attempt' && change.id === id,
  () => void load(),
);
useChanges(
  (change) => change.type === 'evidence' && change.id === id,
  () => void bench.grow(),
);

const attempt = computed(() => bench.attempt);
const title = computed(() => {
  const one = attempt.value;
  if (!one) return '';
  if (one.failure) return one.failure.sentence;
  if (one.state === 'recording') return `Recording now: ${one.test.title}`;
  if (one.outcome === 'interrupted') return `Interrupted: ${one.interruptedBy ?? 'it did not come to its end'}`;
  if (one.outcome === 'unreported') return 'The session ended and nobody told the outcome';
  if (one.outcome === 'passed' && one.against?.fails) return againstWords(one.against);
  if (one.outcome === 'passed' && one.leading)
    return `Passed, and doubtful: ${causeNames[one.leading.cause].toLowerCase()}`;
  return one.outcome === 'passed' ? `Passed in ${duration(one.durationMs)}` : `${one.outcome}: ${one.test.title}`;
});
const under = computed(() => {
  const failure = attempt.value?.failure;
  if (!failure) return '';
  const first = failure.message.split('\n')[0] ?? '';
  const where = failure.ownFrame
    ? ` at ${frameText(failure.ownFrame)} (your code; ${plural(failure.libraryFrames, 'library frame')} folded)`
    : '';
  return `${first.length > 90 ? `${first.slice(0, 89)}…` : first}${where}`;
});
const edge = computed(() => {
  if (attempt.value?.failure) return 'brick';
  if (attempt.value?.outcome !== 'passed') return 'none';
  return attempt.value.against?.fails ? 'brick' : attempt.value.leading ? 'amber' : 'sea';
});
const sideKeys: Readonly<Record<string, Side>> = { w: 'why', l: 'console', n: 'network', m: 'structure', k: 'compare' };
/** The same key leads back to the moment. */
function show(side: Side): void {
  bench.side = bench.side === side ? 'moment' : side;
}
/** A stretch of time is marked by its two ends, one press of B each. */
let firstEnd: number | undefined;
function mark(): void {
  if (firstEnd === undefined || bench.range) {
    bench.range = null;
    firstEnd = bench.level;
    return;
  }
  const ends = [firstEnd, bench.level].sort((a, b) => a - b) as [number, number];
  firstEnd = undefined;
  if (ends[1] > ends[0]) bench.range = { from: ends[0], until: ends[1] };
}
/** What is pinned is kept whatever the rules of keeping say. */
const pinTitle = 'Pinned attempts keep all of their evidence, whatever their term';
async function pin(): Promise<void> {
  try {
    await api(attempt.value!.kept.pinned ? 'DELETE' : 'POST', `/attempts/${id}/pin`);
    await load();
  } catch (problem) {
    tell('It could not be pinned', problem);
  }
}
/** What is against the rules, one after the other. */
const breach = ref(-1);
function nextBreach(): void {
  const breaches = attempt.value?.against?.breaches ?? [];
  if (!breaches.length) return;
  breach.value = (breach.value + 1) % breaches.length;
  const { event, at } = breaches[breach.value]!;
  bench.level = at;
  bench.point(event, at);
}
const breachesOf = computed(() => {
  const { breaches = [], more = 0 } = attempt.value?.against ?? {};
  const all = breaches.length + more;
  return breach.value < 0 ? `${plural(all, 'message')}, show them` : `${breach.value + 1} of ${all}`;
});
/** Where this attempt is held against passing ones. */
const contrastOf = computed(() => ({ path: '/contrast', query: { failing: id } }));
const making = ref(false);
const keeping = ref(false);

async function makeDrill(): Promise<void> {
  if (making.value) return;
  making.value = true;
  try {
    const { id: drill } = await api<{ id: string }>('POST', '/drills', { attemptId: id });
    await router.push(`/drills/${drill}`);
  } catch (problem) {
    tell('No drill was made', problem);
  } finally {
    making.value = false;
  }
}

/** What it costs is said on the button: so long at most, for the search and for one remedy of the test's length. */
const mendBudget = { minutes: 5, trials: 80 } as const;
const proofTrials = 20;
const mendCost = computed(() => {
  const all = proofTrials * 1.75 * ((attempt.value?.durationMs ?? 0) + 800);
  return `${mendBudget.minutes} min to provoke it at most, ${duration(all)} for each remedy`;
});
async function mend(): Promise<void> {
  if (making.value) return;
  making.value = true;
  try {
    const { mendings } = await api<{ mendings: { id: string; state: string }[] }>('GET', `/attempts/${id}/mendings`);
    const under = mendings.find(({ state }) => state === 'running');
    const { id: begun } =
      under ??
      (await api<{ id: string }>('POST', '/mendings', { attemptId: id, trials: proofTrials, budget: mendBudget }));
    await router.push(`/mendings/${begun}`);
  } catch (problem) {
    tell('It was not begun', problem);
  } finally {
    making.value = false;
  }
}

useKeys(
  [
    { keys: '↑ ↓', does: 'step' },
    { keys: '← →', does: 'clue' },
    { keys: 'Shift+↑ ↓', does: 'finer' },
    { keys: 'F', does: 'failure' },
    { keys: 'Z', does: 'fold' },
    { keys: 'T', does: 'true time' },
    { keys: '+ − 0', does: 'zoom' },
    { keys: 'P', does: 'play' },
    { keys: 'B', does: 'mark' },
    { keys: 'W', does: 'why' },
    { keys: 'L N M K', does: 'lists' },
    { keys: 'C', does: 'contrast' },
    { keys: 'V', does: 'verdict' },
    { keys: 'J', does: 'keep this moment' },
    { keys: 'D', does: 'drill' },
    { keys: 'O', does: 'provoke, mend, prove' },
    { keys: 'R', does: 'against the rules' },
    { keys: 'I', does: 'pin' },
    { keys: '[ ]', does: 'attempt' },
  ],
  (event) => {
    const family = attempt.value?.familyId;
    switch (event.key) {
      case 'ArrowDown':
      case 'ArrowUp': {
        const by = event.key === 'ArrowDown' ? 1 : -1;
        moves.stop();
        if (event.shiftKey) moves.fine(by);
        else moves.step(by);
        return true;
      }
      case 'ArrowRight':
        bench.nextClue(1);
        return true;
      case 'ArrowLeft':
        bench.nextClue(-1);
        return true;
      case 'Escape':
        if (bench.side !== 'moment') bench.side = 'moment';
        else if (bench.clue === null) bench.range = null;
        bench.choose(null);
        return true;
      case '+':
      case '=':
        bench.time.zoomBy(1.5);
        return true;
      case '-':
        bench.time.zoomBy(1 / 1.5);
        return true;
      case '0':
        bench.time.fit(0, bench.poles.until);
        return true;
      case '[':
      case ']': {
        const list = attempt.value?.siblings ?? [];
        const next = list[list.findIndex((one) => one.id === id) + (event.key === ']' ? 1 : -1)];
        if (next) void router.push(`/attempts/${next.id}`);
        return true;
      }
    }
    switch (event.key.toLowerCase()) {
      case 'f':
        bench.level = bench.failureAt;
        return true;
      case 'z':
        bench.time.mode = bench.time.mode === 'folded' ? 'spread' : 'folded';
        return true;
      case 't':
        bench.time.mode = bench.time.mode === 'true' ? 'folded' : 'true';
        return true;
      case 'p':
        if (bench.time.playing) moves.stop();
        else moves.play(bench.slower);
        return true;
      case 'w':
      case 'l':
      case 'n':
      case 'm':
      case 'k':
        show(sideKeys[event.key.toLowerCase()]!);
        return true;
      case 'e':
        show('moment');
        return true;
      case 'b':
        mark();
        return true;
      case 'c':
        if (attempt.value?.failure) void router.push(contrastOf.value);
        return true;
      case 'd':
        void makeDrill();
        return true;
      case 'j':
        keeping.value = true;
        return true;
      case 'i':
        void pin();
        return true;
      case 'r':
        nextBreach();
        return true;
      case 'o':
        if (attempt.value?.failure) void mend();
        return true;
      case 'v':
        if (family) void router.push(`/dossiers/${family}`);
        return true;
    }
    return false;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load(true)" />
  <div v-else-if="loaded && attempt" class="bench">
    <Strip :title="title" :edge="edge">
      <template #crumbs>
        <RouterLink to="/">Arrivals</RouterLink> /
        <RouterLink :to="`/runs/${attempt.runId}`">{{ attempt.run?.name }}</RouterLink> /
        <RouterLink :to="`/tests/${attempt.test.id}`"
          >{{ attempt.test.suite ? `${attempt.test.suite} · ` : '' }}{{ attempt.test.title }}</RouterLink
        >
        <span class="which">
          attempt
          <template v-for="one in attempt.siblings" :key="one.id"
            ><RouterLink
              v-if="one.id !== attempt.id"
              :to="`/attempts/${one.id}`"
              :aria-label="`attempt ${one.number}, ${one.outcome}`"
              >{{ one.number }}&nbsp;<OutcomeGlyph :outcome="one.outcome" :size="10" silent /></RouterLink
            ><b v-else>{{ one.number }}&nbsp;<OutcomeGlyph :outcome="one.outcome" :size="10" /></b>
          </template>
          · {{ attempt.environment.key }}
          <button class="plain pin" :aria-pressed="attempt.kept.pinned" :title="pinTitle" @click="pin">
            {{ attempt.kept.pinned ? 'pinned' : 'pin' }}
          </button>
        </span>
      </template>
      <template #under>{{ under }}</template>
      <RouterLink v-if="attempt.familyId" class="chip brick-chip" :to="`/dossiers/${attempt.familyId}`">
        <b>{{ attempt.leading ? causeNames[attempt.leading.cause] : 'Undetermined' }}</b>
        <small>{{
          attempt.family?.verdict.confirmed
            ? 'confirmed'
            : attempt.leading
              ? `standing suspect · ${probability(attempt.leading.probability)}`
              : 'no suspect stands out'
        }}</small>
      </RouterLink>
      <button v-if="attempt.against" class="chip brick-chip" @click="nextBreach">
        <b>{{ attempt.against.fails ? 'Against the rules' : 'Rules tell' }}</b><small>{{ breachesOf }}</small>
      </button>
      <RouterLink v-if="attempt.failure" class="chip sea-chip" :to="contrastOf"
        ><b>Contrast</b><small>against passing attempts</small></RouterLink
      >
      <button class="chip amber-chip" :disabled="making" @click="makeDrill">
        <b>Drill</b><small>{{ making ? 'being made' : 'replay it from here' }}</small>
      </button>
      <button v-if="attempt.failure" class="chip amber-chip" :title="mendCost" :disabled="making" @click="mend">
        <b>Mend</b><small>provoke, mend, prove</small>
      </button>
    </Strip>
    <div class="halves">
      <Scaffold v-if="bench.events.length" />
      <div v-else class="empty soft">
        <p>
          {{
            attempt.state === 'recording'
              ? 'Evidence appears here as it is recorded.'
              : attempt.kept.level === levels.findings
                ? `Its evidence was let go of on ${moment(attempt.kept.letGoAt!)}: ${letGoWords[attempt.kept.why!]}. What was found in it is kept.`
                : 'Nothing was recorded of this attempt but its outcome.'
          }}
        </p>
        <p>Tests that use the address ending in <code>/wd</code> are recorded whole.</p>
      </div>
      <Exhibit />
    </div>
    <KeepMoment v-model:open="keeping" />
  </div>
  <p v-else class="loading soft" role="status">Laying out the evidence</p>
</template>

<style scoped>
.bench {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) clamp(330px, 33.2vw, 620px);
  min-height: 0;
}

.pin {
  color: var(--sea);
  margin-left: 8px;
}
.pin[aria-pressed='true'] {
  font-weight: 600;
}
.which {
  margin-left: 22px;
}
.which a,
.which b {
  margin-right: 6px;
}
.chip {
  display: grid;
  align-content: center;
  border: 0;
  padding: 6px 14px;
  min-width: 130px;
  cursor: pointer;
  text-align: left;
  color: var(--ink);
}
.chip:hover {
  text-decoration: none;
  filter: brightness(0.97);
}
.chip b {
  font-size: 13.5px;
  font-weight: 600;
}
.chip small {
  color: var(--soft);
  font-size: 12px;
}
.brick-chip {
  background: var(--brick-pale);
}
.sea-chip {
  background: var(--sea-pale);
}
.amber-chip {
  background: var(--amber-pale);
}
.empty {
  padding: 32px 18px;
}
.loading {
  padding: 18px;
}
</style>
