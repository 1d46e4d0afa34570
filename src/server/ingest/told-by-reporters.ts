import { guarded } from '../../core/background.ts';
import { toldLater, type Reported } from '../../core/placing/told-later.ts';
import type { Changes } from '../changes.ts';
import type { Store } from '../store/store.ts';

/** A reporter and a browser of the same test are done within moments of each other, in either order, ms. */
const quietMs = 4000;
/** A recording that comes later than this is told of by hand, or by a report, ms. */
const keptMs = 2 * 3_600_000;
const mostKept = 5000;
/** Clocks of the reporter's machine and of the browser's differ by less, ms. */
const clockMs = 60_000;

/**
 * Tests that a reporter streamed while a browser was recorded by itself: once both are over, the recording becomes the
 * evidence of the test. The test stays the attempt that the reporter knows.
 */
export class ToldByReporters {
  /** By id: when the test began and was over. */
  private readonly over = new Map<string, { from: number; until: number; told: number }>();
  private timer: NodeJS.Timeout | undefined;
  private readonly stopListening: () => void;

  /** @param settle is told which attempts have other evidence now */
  constructor(
    private readonly store: Store,
    changes: Changes,
    private readonly settle: (id: string) => void,
  ) {
    this.stopListening = changes.listen((change) => {
      if (change.type === 'attempt' && this.over.size) this.soon();
    });
  }

  /** A streamed test is over. */
  ended(id: string): void {
    const one = this.store.attempts.get(id);
    if (!one) return;
    this.over.set(id, { from: one.startedAt, until: one.startedAt + one.durationMs, told: Date.now() });
    if (this.over.size > mostKept) this.over.delete(this.over.keys().next().value!);
    this.soon();
  }

  private soon(): void {
    this.timer ??= setTimeout(() => {
      this.timer = undefined;
      guarded('joining what was recorded with what a reporter told', () => this.join());
    }, quietMs);
    this.timer.unref();
  }

  private join(): void {
    const { store } = this;
    let [from, until] = [Infinity, -Infinity];
    for (const [id, one] of this.over) {
      if (Date.now() - one.told > keptMs) this.over.delete(id);
      else [from, until] = [Math.min(from, one.from), Math.max(until, one.until)];
    }
    if (this.over.size === 0) return;
    // One that runs beside and is not over may be what was recorded.
    const running = store.attempts.streaming().map((id) => store.attempts.get(id)?.startedAt ?? 0);
    const recorded = store.told
      .untold(from - clockMs, until + clockMs)
      .filter((one) => running.every((began) => began > one.until));
    // Most reporters stream tests that nobody records: nothing more is asked then.
    if (recorded.length === 0) return;
    const first = Math.min(...recorded.map((one) => one.from)) - clockMs;
    const last = Math.max(...recorded.map((one) => one.until)) + clockMs;
    const reported = [...this.over].flatMap(([id, one]) =>
      one.until < first || one.from > last ? [] : (this.bare(id) ?? []),
    );
    const { pairs, shared } = toldLater(reported, recorded);
    const whole = pairs.map(({ recorded: id, reported: test }) => {
      const told = reported.find((one) => one.id === test)!;
      const seen = recorded.find((one) => one.id === id)!;
      return { recorded: id, parts: [{ reported: test, from: told.from, until: Math.max(told.until, seen.until) }] };
    });
    for (const one of [...whole, ...shared]) {
      const ids = one.parts.map((part) => part.reported);
      if (this.namesAlike(one.recorded, ids)) continue;
      store.inPieces([one], ({ recorded: id, parts }) => store.told.shareOut(null, id, parts, 'its reporter'));
      for (const id of [...ids, one.recorded]) this.settle(id);
      for (const id of ids) this.over.delete(id);
    }
  }

  /** A streamed test with its time; nothing where it brought what a browser records, or is told of already. */
  private bare(id: string): Reported | undefined {
    const one = this.store.attempts.get(id);
    if (!one || one.labels.told || this.store.told.hasSeenThePage(id)) {
      this.over.delete(id);
      return undefined;
    }
    return { id, title: one.test.title, from: one.startedAt, until: one.startedAt + one.durationMs, timed: true };
  }

  /** Whether a reporter gave its own events names that the recording gave too: one would take the other's place. */
  private namesAlike(recorded: string, tests: readonly string[]): boolean {
    const own = new Set(this.store.events.recorded(recorded).map(({ id }) => id));
    return tests.some((id) => this.store.events.recorded(id).some((event) => own.has(event.id)));
  }

  close(): void {
    this.stopListening();
    clearTimeout(this.timer);
  }
}
