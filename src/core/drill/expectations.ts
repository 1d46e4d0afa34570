import { endOf, type StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { median } from '../stats/median.ts';
import type { Condition, Statement, Subject, Target } from './drill.ts';
import type { Elements } from './elements.ts';
import { comparedBy } from './ends.ts';
import { expectedOf, hintsOf } from './expected.ts';
import { foundBy, looksOf, sameLook, type Look } from './looks.ts';

const fallbackLimitMs = 5000;
const fallbackEveryMs = 100;
/** Gaps under this lie within one try. */
const shortestGapMs = 10;

const goneCodes: ReadonlySet<string> = new Set(['no such element', 'stale element reference']);

/** What the waits and checks of an attempt are about, told with the help of those that passed. */
export class Expectations {
  readonly looks: readonly Look[];
  private readonly passing: readonly { evidence: Evidence; looks: Look[] }[];

  /**
   * @param limitMs how long the wait that ran out was meant to take, where it was told
   * @param remark takes what cannot be known, in words
   */
  constructor(
    private readonly evidence: Evidence,
    passing: readonly Evidence[],
    private readonly elements: Elements,
    private readonly limitMs: number | undefined,
    private readonly remark: (words: string) => void,
  ) {
    this.looks = looksOf(evidence);
    this.passing = passing.map((one) => ({ evidence: one, looks: looksOf(one, Infinity) }));
  }

  kinOf(look: Look): Look[] {
    return sameLook(
      look,
      this.passing.map(({ looks }) => looks),
    );
  }

  /** What was so at the first look here, and was waited for in another attempt. */
  isWait(look: Look, kin: readonly Look[]): boolean {
    const asked = new Set(look.steps.map(({ data }) => data.command));
    return kin.some(
      ({ wait, steps }) =>
        wait !== undefined && [...asked].every((one) => steps.some(({ data }) => data.command === one)),
    );
  }

  /** What a read value was expected to be: as the test told, as its message says, or as passing attempts have it. */
  expectation(step: StepEvent, subject: Subject): Condition | undefined {
    const read = foundBy(step);
    const isLast = step === this.evidence.failing;
    if (read === undefined) return undefined;
    const look = this.looks.find(({ steps }) => steps.includes(step));
    const others = look
      ? this.passing.flatMap(({ evidence, looks }) => {
          const same = sameLook(look, [looks])[0]?.steps.find(({ data }) => data.command === step.data.command);
          return same ? [{ evidence, step: same }] : [];
        })
      : [];
    const compared =
      expectedOf({ evidence: this.evidence, step }, others) ??
      (isLast
        ? comparedBy(
            others.flatMap((one) => foundBy(one.step) ?? []),
            [read],
          )
        : undefined);
    if (compared) return { kind: 'value', subject, ...compared };
    if (isLast) this.remark(`the last line cannot fail: what ${step.data.label} was expected to give is told nowhere`);
    return undefined;
  }

  /** The wait that a look was; nothing where it cannot be said what for. */
  wait(look: Look, kin: readonly Look[]): Extract<Statement, { do: 'wait' }> | undefined {
    const waits = [look, ...kin].filter(({ wait }) => wait !== undefined);
    const used = Math.max(...waits.map(({ steps }) => endOf(steps.at(-1)!) - steps[0]!.at));
    const told = look.met ? undefined : this.limitMs;
    const limitMs = Math.round(told ?? (look.met ? Math.max(fallbackLimitMs, used * 2) : Math.max(500, used)));
    const gaps = waits.flatMap(({ steps }) =>
      steps.slice(1).flatMap((step, i) => {
        const gap = step.at - endOf(steps[i]!);
        return gap >= shortestGapMs ? [gap] : [];
      }),
    );
    const everyMs = gaps.length ? Math.round(median(gaps)) : fallbackEveryMs;
    const until = this.condition(look, kin);
    return until && { do: 'wait', until, limitMs, everyMs };
  }

  /** What ends a wait: told from where it ended, in whatever attempt, and from all that had not ended it. */
  private condition(look: Look, kin: readonly Look[]): Condition | undefined {
    const all = [look, ...kin];
    const ended = all.filter(({ met }) => met);
    // Those that went on know what is asked; one that ran out may never have come so far.
    const model = ended.find(({ wait }) => wait !== undefined) ?? ended[0] ?? look;
    const last = model.steps.findLast(({ data }) => data.action !== 'find') ?? model.steps.at(-1)!;
    const tries = ({ steps }: Look): StepEvent[] =>
      steps.filter(({ data }) => data.command === last.data.command || (data.action === 'find' && data.error));
    const ends = ended.map((one) => tries(one).at(-1)!);
    const before = all.flatMap((one) => (one.met ? tries(one).slice(0, -1) : tries(one)));
    const target = last.data.locator && this.elements.locator(last.data.locator);
    // The test went on once nothing was there any more.
    if (target && ends.length && ends.every(({ data }) => data.error && goneCodes.has(data.error.code)))
      return { kind: 'gone', target: { locator: target } };
    if (last.data.action === 'find') {
      if (!target) return undefined;
      const many = last.data.command.startsWith('find elements');
      if (!many) return { kind: 'there', target: { locator: target } };
      const subject: Subject = { what: 'count', of: { locator: target } };
      return this.counted(subject, ends.map(countOf), before.map(countOf), { locator: target });
    }
    const subject = this.elements.subject(last, true);
    if (!subject) return undefined;
    const values = (list: readonly StepEvent[]): string[] => list.flatMap((step) => foundBy(step) ?? []);
    const [end, none] = [values(ends), values(before)];
    if (subject.what === 'answer' && end.every(isTruthy) && none.every((value) => !isTruthy(value)))
      return {
        kind: 'script',
        script: subject.script!,
        ...(subject.arguments ? { arguments: subject.arguments } : {}),
      };
    const compared = comparedBy(end, none, hintsOf(this.evidence, look));
    if (compared && (none.length || !target)) return { kind: 'value', subject, ...compared };
    // Nothing was ever read but what ended it: the element had to be there, no more is known.
    if (!none.length) return target && { kind: 'there', target: { locator: target } };
    this.remark(`what ${last.data.label} waits for is known by what it was not: no passing attempt shows its end`);
    return { kind: 'value', subject, comparison: 'is not', value: none.at(-1)! };
  }

  private counted(subject: Subject, ends: number[], before: number[], target: Target): Condition {
    const least = Math.min(...ends);
    const most = Math.max(0, ...before);
    if (ends.length && least === 0) return { kind: 'gone', target };
    const named = hintsOf(this.evidence)
      .map(Number)
      .find((n) => n > most && n <= least && Number.isInteger(n));
    if (named === undefined && most === 0) return { kind: 'there', target };
    const value = String(named ?? (ends.length ? least : most + 1));
    return { kind: 'value', subject, comparison: 'is at least', value };
  }
}

const countOf = (step: StepEvent): number => Number(foundBy(step) ?? 0) || 0;
const isTruthy = (value: string): boolean => !['false', 'null', '0', '', '""'].includes(value);
