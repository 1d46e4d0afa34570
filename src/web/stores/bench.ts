import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Clue } from '../../core/clues/clue.ts';
import { quietCodes } from '../../core/clues/register.ts';
import type { ConsoleEvent, EvidenceEvent, NetworkEvent } from '../../core/evidence/event.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import type { Usual } from '../../core/evidence/usual.ts';
import { countBetween, mostInSight, stopsOf, type StopLane, type Stops } from '../../core/scaffold/crowd.ts';
import { atLevel, polesOf } from '../../core/scaffold/poles.ts';
import { api } from '../api.ts';
import { noFilter, type ListFilter } from '../exhibit/working-list.ts';
import { windowAt, windowsOf } from '../scaffold/windows.ts';
import type { AttemptView, Suspect } from '../types.ts';
import { useBenchTime } from './bench-time.ts';

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

export const sides = ['moment', 'why', 'console', 'network', 'structure', 'compare'] as const;
export type Side = (typeof sides)[number];

/** What the bench shows: one attempt, its evidence, the level, the chosen clue. */
export const useBench = defineStore('bench', () => {
  const attempt = ref<AttemptView>();
  const outline = shallowRef<Outline>({ total: 0, until: 0, whole: true, stops: {}, events: [] });
  /** Of a large attempt: the stretch of time whose events are all here. */
  const stretch = shallowRef<{ from: number; until: number; events: EvidenceEvent[] }>();
  const clues = ref<Clue[]>([]);
  const suspects = ref<Suspect[]>([]);
  const level = ref(0);
  /** The level that the exhibit shows: the level, a moment later while it moves. */
  const shown = ref(0);
  const clue = ref<number | null>(null);
  const listFilter = ref<ListFilter>({ ...noFilter });
  /** A stretch of time in focus, ms. */
  const range = ref<{ from: number; until: number } | null>(null);
  const loading = ref(false);
  /** What the exhibit shows: the moment, or one of its lists and views. */
  const side = ref<Side>('moment');
  /** The video is shown also where a picture is near. */
  const filmFirst = ref(false);
  /** The level keeps to recorded moments when it is set by hand. */
  const snaps = ref(true);
  /** How many times slower than life it plays. */
  const slower = ref(10);
  /** Times of the frames of the video at the level, ms on the attempt's clock; empty without one. */
  const filmTimes = shallowRef<readonly number[]>([]);

  async function load(id: string): Promise<void> {
    const [one, found, suspected, drawn] = await Promise.all([
      api<AttemptView>('GET', `/attempts/${id}`),
      api<{ clues: Clue[] }>('GET', `/attempts/${id}/clues`),
      api<{ suspects: Suspect[] }>('GET', `/attempts/${id}/suspects`),
      api<Outline>('GET', `/attempts/${id}/outline`),
    ]);
    if (attempt.value?.id !== id) {
      stretch.value = undefined;
      usual.value = undefined;
    }
    listed.value = undefined;
    attempt.value = one;
    clues.value = found.clues;
    suspects.value = suspected.suspects;
    for (const times of Object.values(drawn.stops)) times.sort((x, y) => x - y);
    outline.value = drawn;
    const before = stretch.value;
    stretch.value = undefined;
    if (before) void see(before.from, before.until);
  }

  /**
   * More was recorded of the attempt that is shown: what is drawn grows. A level that stood at the end goes with it; one
   * that was set elsewhere stays where it is.
   */
  async function grow(): Promise<void> {
    const id = attempt.value?.id;
    if (!id || attempt.value?.state !== 'recording') return;
    const before = outline.value.until;
    const drawn = await api<Outline>('GET', `/attempts/${id}/outline`).catch(() => undefined);
    if (!drawn || attempt.value?.id !== id || drawn.total < outline.value.total) return;
    for (const times of Object.values(drawn.stops)) times.sort((x, y) => x - y);
    const follows = level.value >= before - 1;
    outline.value = drawn;
    if (follows) level.value = drawn.until;
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

  /** Clues with a pennant: those that speak for something. */
  const loud = computed(() => clues.value.filter((one) => !quietCodes.has(one.code)));
  const chosen = computed(() => (clue.value === null ? undefined : loud.value[clue.value]));
  /** One event that was asked for by itself, by advice or by an address. */
  const pointed = ref<string | null>(null);
  const evidence = computed(() => new Set(pointed.value ? [pointed.value] : (chosen.value?.evidence ?? [])));
  function point(event: string, at: number): void {
    clue.value = null;
    pointed.value = event;
    level.value = at;
  }
  const windows = computed(() => windowsOf(poles.value.window, poles.value.planks, poles.value.until));
  /** Which window the test looked at at the level, and which stood in front. */
  const looking = computed(() => windowAt(windows.value, shown.value));
  const now = computed(() => atLevel(poles.value, shown.value, looking.value.looked?.context));
  // The line moves at once; what the exhibit tells of it follows as soon as the frame is out.
  let follows = false;
  watch(
    level,
    () => {
      if (follows) return;
      follows = true;
      setTimeout(() => {
        follows = false;
        shown.value = level.value;
      });
    },
    { flush: 'sync' },
  );
  /** Where it failed; where no source tells, the last thing that is likely to show it. */
  const failureAt = computed(() => {
    const { planks, console, screens } = poles.value;
    const told = attempt.value?.failure?.at ?? planks.at(-1)?.at;
    return told ?? (console.findLast((line) => line.data.level === 'error') ?? screens.at(-1))?.at ?? 0;
  });

  function choose(index: number | null): void {
    pointed.value = null;
    clue.value = index === null || !loud.value[index] ? null : index;
    if (chosen.value) level.value = chosen.value.at;
  }

  /** The clue of a kind nearest to a time; one without a pennant is pointed at by what shows it. */
  function chooseCode(code: string, at: number): void {
    const near = (list: readonly Clue[]): Clue | undefined =>
      list
        .filter((one) => one.code === code)
        .reduce<Clue | undefined>(
          (best, one) => (best && Math.abs(best.at - at) <= Math.abs(one.at - at) ? best : one),
          undefined,
        );
    const found = near(loud.value) ?? near(clues.value);
    if (!found) return;
    if (loud.value.includes(found)) choose(loud.value.indexOf(found));
    else if (found.evidence[0]) point(found.evidence[0], found.at);
  }

  function nextClue(by: 1 | -1): void {
    if (loud.value.length === 0) return;
    const from = clue.value ?? (by > 0 ? -1 : 0);
    choose((from + by + loud.value.length) % loud.value.length);
  }

  /** What passing attempts of this test usually log and ask for; asked when a list is opened. */
  const usual = shallowRef<Usual>();
  /** All lines and requests of a large attempt, for its lists. */
  const listed = shallowRef<{ console: ConsoleEvent[]; network: NetworkEvent[]; more: boolean }>();
  // Asked for again when the attempt was loaded anew, or another one, while a list stands open.
  watch([side, outline], async ([now]) => {
    const id = attempt.value?.id;
    if (!id || (now !== 'console' && now !== 'network')) return;
    usual.value ??= await api<Usual>('GET', `/attempts/${id}/usual`).catch(() => undefined);
    if (outline.value.whole || listed.value) return;
    const [lines, requests] = await Promise.all([
      api<{ events: ConsoleEvent[]; after: string | null }>('GET', `/attempts/${id}/events?lane=console&limit=10000`),
      api<{ events: NetworkEvent[]; after: string | null }>('GET', `/attempts/${id}/events?lane=network&limit=10000`),
    ]);
    if (attempt.value?.id === id)
      listed.value = {
        console: lines.events,
        network: requests.events,
        more: lines.after !== null || requests.after !== null,
      };
  });
  const consoleLines = computed(() => listed.value?.console ?? poles.value.console);
  const requests = computed(() => listed.value?.network ?? poles.value.network);

  const time = useBenchTime({ outline, poles, stops });
  // The level's own surroundings are needed by the exhibit, also when the scaffold looks elsewhere.
  watch(level, (at) => void (time.playing || known(at, at) || see(Math.max(0, at - 200), at + 200)));

  return {
    attempt,
    outline,
    events,
    stops,
    byId,
    clues,
    suspects,
    level,
    shown,
    clue,
    range,
    snaps,
    slower,
    filmTimes,
    poles,
    loud,
    chosen,
    evidence,
    pointed,
    point,
    now,
    windows,
    looking,
    side,
    listFilter,
    filmFirst,
    failureAt,
    failingKey,
    time,
    load,
    grow,
    see,
    known,
    usual,
    listed,
    consoleLines,
    requests,
    crowded,
    trouble,
    choose,
    chooseCode,
    nextClue,
  };
});
