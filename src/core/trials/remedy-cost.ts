import { diffArrays } from 'diff';
import { acts, type Drill } from '../drill/drill.ts';
import { printStatement } from '../drill/print.ts';
import { shiftBetween, type Shift } from '../stats/hodges-lehmann.ts';

/** Lines of a drill, by their place in it: from the first of them, up to and without the last. */
interface Span {
  from: number;
  to: number;
}

/**
 * Where two drills differ, in either. A place that was changed reaches to the next action, and holds it: what a wait put
 * before takes is often what a wait behind it would have taken, and once the test acts again, the page draws new times.
 */
export function changedSpans(before: Drill, after: Drill): { before: Span[]; after: Span[] } {
  const [was, is] = [before, after].map(({ lines }) => lines.map(printStatement)) as [string[], string[]];
  const spans = { before: [] as Span[], after: [] as Span[] };
  let [i, k] = [0, 0];
  let open: { before: number; after: number } | undefined;
  const close = (): void => {
    if (!open) return;
    spans.before.push({ from: open.before, to: i });
    spans.after.push({ from: open.after, to: k });
    open = undefined;
  };
  for (const { value, added, removed } of diffArrays(was, is)) {
    if (added || removed) {
      open ??= { before: i, after: k };
      if (removed) i += value.length;
      else k += value.length;
      continue;
    }
    for (let n = 0; n < value.length; n++) {
      const { do: what } = before.lines[i]!;
      [i, k] = [i + 1, k + 1];
      if (acts.has(what)) close();
    }
  }
  close();
  return spans;
}

/**
 * What a remedy costs a test in which nothing is wrong: how much longer the places that it changed take, by all pairs of
 * trials without and with it. The rest of the test, whose times the page draws anew in every visit, is left out. What a
 * wait gains behind the next action is not counted, so the cost is rather too high than too low.
 * @param took how long each line took in each trial that passed, ms
 * @returns ms; nothing where no trial was timed
 */
export function remedyCost(
  before: Drill,
  after: Drill,
  took: { before: readonly (readonly number[])[]; after: readonly (readonly number[])[] },
): Shift | undefined {
  const spans = changedSpans(before, after);
  const sums = (trials: readonly (readonly number[])[], own: readonly Span[]): number[] =>
    trials.map((lines) =>
      own.reduce((sum, { from, to }) => sum + lines.slice(from, to).reduce((a, ms) => a + ms, 0), 0),
    );
  return shiftBetween(sums(took.before, spans.before), sums(took.after, spans.after));
}
