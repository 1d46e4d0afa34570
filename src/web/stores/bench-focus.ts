import { computed, ref, shallowRef, watch } from 'vue';
import type { Clue } from '../../core/clues/clue.ts';
import { quietCodes } from '../../core/clues/register.ts';
import { atLevel } from '../../core/scaffold/poles.ts';
import { windowAt, windowsOf } from '../scaffold/windows.ts';
import type { BenchEvidence } from './bench-evidence.ts';

/** Under this a clue has no pennant: it is seen on ordinary days as well. */
export const leastTelling = 0.25;
/** As likely as this, a suspect that does not lead has its pennants too. */
const remains = 0.1;

/** What the bench looks at: the level, the chosen clue, a stretch of time, and what follows from them. */
export function useBenchFocus({ attempt, outline, clues, suspects, poles }: BenchEvidence) {
  const level = ref(0);
  /** The level that the exhibit shows: the level, a moment later while it moves. */
  const shown = ref(0);
  const clue = ref<number | null>(null);
  /** A stretch of time in focus, ms. */
  const range = ref<{ from: number; until: number } | null>(null);
  /** The level keeps to recorded moments when it is set by hand. */
  const snaps = ref(true);
  /** How many times slower than life it plays. */
  const slower = ref(10);
  /** The video is shown also where a picture is near. */
  const filmFirst = ref(false);
  /** Times of the frames of the video at the level, ms on the attempt's clock; empty without one. */
  const filmTimes = shallowRef<readonly number[]>([]);

  /** Clues that something may be made of: what happens on any day, or is quiet by nature, is not. */
  const telling = computed(() =>
    clues.value.filter((one) => !quietCodes.has(one.code) && one.strength >= leastTelling),
  );
  /** Clues with a pennant: what speaks for the leading suspect, the weightiest first, then for others that remain. */
  const loud = computed(() => {
    const standing = suspects.value.filter((one, i) => one.for.length > 0 && (i === 0 || one.probability >= remains));
    const speaking = standing.flatMap(({ for: list }) =>
      list.flatMap(({ code, at }) => telling.value.find((one) => one.code === code && one.at === at) ?? []),
    );
    // Where nothing leads, what was seen is told as it happened.
    return speaking.length ? [...new Set(speaking)] : telling.value;
  });
  /** Clues that say little here: they speak for nothing that stands, or the same happens where nothing fails. */
  const usual = computed(() => clues.value.filter((one) => !quietCodes.has(one.code) && !loud.value.includes(one)));
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
  // A level that stood at the end of what is recorded goes with it; one that was set elsewhere stays where it is.
  watch(
    outline,
    ({ until }, before) => {
      if (attempt.value?.state === 'recording' && level.value >= before.until - 1) level.value = until;
    },
    { flush: 'sync' },
  );

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

  return {
    level,
    shown,
    clue,
    range,
    snaps,
    slower,
    filmFirst,
    filmTimes,
    loud,
    usualClues: usual,
    chosen,
    evidence,
    pointed,
    point,
    windows,
    looking,
    now,
    choose,
    chooseCode,
    nextClue,
  };
}
