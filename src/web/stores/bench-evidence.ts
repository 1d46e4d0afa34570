import { computed, ref, shallowRef } from 'vue';
import type { Clue } from '../../core/clues/clue.ts';
import type { Source } from '../../core/clues/waits-for.ts';
import type { WouldTell } from '../../core/causes/would-tell.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { countBetween, mostInSight, stopsOf, type StopLane, type Stops } from '../../core/scaffold/crowd.ts';
import { polesOf } from '../../core/scaffold/poles.ts';
import { api } from '../api.ts';
import type { AttemptView, ShownTrials, Suspect } from '../types.ts';

interface Outline {
  total: number;
  until: number;
  /** All events are here; else only those that bear on the whole attempt, and the times of the others. */
  whole: boolean;
  stops: Partial<Record<StopLane, number[]>>;
  events: EvidenceEvent[];
}

/** Beyond what is in sight, this share of it is loaded at both ends. */
const overlap = 0.6;

/** The evidence of the bench: one attempt, its events as far as they are needed, what was found in them. */
interface SuspectsAnswer {
  suspects: Suspect[];
  waitsFor: Source[];
  wouldTell?: WouldTell;
  trials: ShownTrials | null;
}

export function useBenchEvidence() {
  const attempt = ref<AttemptView>();
  const outline = shallowRef<Outline>({ total: 0, until: 0, whole: true, stops: {}, events: [] });
  /** Of a large attempt: the stretch of time whose events are all here. */
  const stretch = shallowRef<{ from: number; until: number; events: EvidenceEvent[] }>();
  const clues = ref<Clue[]>([]);
  const suspects = ref<Suspect[]>([]);
  const waitsFor = ref<Source[]>([]);
  const wouldTell = ref<WouldTell>();
  const trials = ref<ShownTrials | null>(null);
  const loading = ref(false);

  async function load(id: string): Promise<void> {
    const [one, found, suspected, drawn] = await Promise.all([
      api<AttemptView>('GET', `/attempts/${id}`),
      api<{ clues: Clue[] }>('GET', `/attempts/${id}/clues`),
      api<SuspectsAnswer>('GET', `/attempts/${id}/suspects`),
      api<Outline>('GET', `/attempts/${id}/outline`),
    ]);
    if (attempt.value?.id !== id) stretch.value = undefined;
    attempt.value = one;
    clues.value = found.clues;
    suspects.value = suspected.suspects;
    waitsFor.value = suspected.waitsFor;
    wouldTell.value = suspected.wouldTell;
    trials.value = suspected.trials;
    for (const times of Object.values(drawn.stops)) times.sort((x, y) => x - y);
    outline.value = drawn;
    const before = stretch.value;
    stretch.value = undefined;
    if (before) void see(before.from, before.until);
  }

  /** More was recorded of the attempt that is shown: what is drawn grows. */
  async function grow(): Promise<void> {
    const id = attempt.value?.id;
    if (!id || attempt.value?.state !== 'recording') return;
    const drawn = await api<Outline>('GET', `/attempts/${id}/outline`).catch(() => undefined);
    if (!drawn || attempt.value?.id !== id || drawn.total < outline.value.total) return;
    for (const times of Object.values(drawn.stops)) times.sort((x, y) => x - y);
    outline.value = drawn;
  }

  const events = computed<EvidenceEvent[]>(() => {
    if (!stretch.value) return outline.value.events;
    const here = new Set(stretch.value.events.map((event) => event.id));
    return [...outline.value.events.filter((event) => !here.has(event.id)), ...stretch.value.events];
  });
  const stops = computed<Stops>(() => (outline.value.whole ? stopsOf(outline.value.events) : outline.value.stops));
  const byId = computed(() => new Map(events.value.map((event) => [event.id, event])));
  const failingKey = computed(() =>
    attempt.value?.failure?.locator ? locatorKey(attempt.value.failure.locator) : undefined,
  );
  const poles = computed(() => polesOf(events.value, failingKey.value, outline.value.until));

  /** True when more lies between two times than can be shown one by one. */
  function crowded(from: number, until: number): boolean {
    if (outline.value.whole) return false;
    const count = Object.values(stops.value).reduce((sum, times) => sum + countBetween(times, from, until), 0);
    return count > mostInSight;
  }

  /** Is everything between two times here? */
  const known = (from: number, until: number): boolean =>
    outline.value.whole || (stretch.value !== undefined && stretch.value.from <= from && stretch.value.until >= until);

  /** Why the stretch in sight is not here, in words; empty when it is. */
  const trouble = ref('');
  let wanted: { from: number; until: number } | undefined;
  /** Has the events of a stretch of time brought here; of several calls while one is under way only the last counts. */
  async function see(from: number, until: number): Promise<void> {
    if (known(from, until) || crowded(from, until)) return;
    wanted = { from, until };
    if (loading.value) return;
    loading.value = true;
    try {
      while (wanted && attempt.value) {
        const { from: first, until: last } = wanted;
        wanted = undefined;
        const more = (last - first) * overlap;
        const id = attempt.value.id;
        const got = await api<{ more: boolean; events: EvidenceEvent[] }>(
          'GET',
          `/attempts/${id}/stretch?from=${(first - more).toFixed(2)}&until=${(last + more).toFixed(2)}`,
        );
        if (attempt.value.id !== id) return;
        trouble.value = '';
        const end = got.more ? (got.events.at(-1)?.at ?? last) : last + more;
        stretch.value = { from: first - more, until: Math.max(last, end), events: got.events };
      }
    } catch (problem) {
      trouble.value = `This stretch could not be fetched: ${problem instanceof Error ? problem.message : String(problem)}. What is drawn as bars is known; scroll or press a step to ask again.`;
    } finally {
      loading.value = false;
    }
  }

  /** Where it failed, or what makes its passing doubtful; where no source tells, the last thing that is likely to show it. */
  const failureAt = computed(() => {
    const { planks, console, screens } = poles.value;
    const doubt = attempt.value?.outcome === 'passed' ? suspects.value[0]?.for[0]?.at : undefined;
    const told = attempt.value?.failure?.at ?? doubt ?? planks.at(-1)?.at;
    return told ?? (console.findLast((line) => line.data.level === 'error') ?? screens.at(-1))?.at ?? 0;
  });

  return {
    attempt,
    outline,
    events,
    stops,
    byId,
    clues,
    suspects,
    waitsFor,
    wouldTell,
    trials,
    poles,
    failureAt,
    failingKey,
    load,
    grow,
    see,
    known,
    crowded,
    trouble,
  };
}

export type BenchEvidence = ReturnType<typeof useBenchEvidence>;
