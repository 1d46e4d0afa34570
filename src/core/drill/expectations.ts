import { endOf, type StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { median } from '../stats/median.ts';
import type { Condition, Statement, Subject, Target } from './drill.ts';
import { drillLocator, type Elements } from './elements.ts';
import { comparedBy } from './ends.ts';
import { expectedInRow, expectedOf, hintsOf } from './expected.ts';
import { foundBy, isMany, Looks, type Look } from './looks.ts';
import { takenElsewhere, type TakenElsewhere } from './taken-elsewhere.ts';

const fallbackLimitMs = 5000;
const fallbackEveryMs = 100;
/** Gaps under this lie within one try. */
const shortestGapMs = 10;

const goneCodes: ReadonlySet<string> = new Set(['no such element', 'stale element reference']);

/** What the waits and checks of an attempt are about, told with the help of those that passed. */
export class Expectations {
  readonly looks: Looks;
  /** Of reads whose values the test joined before it checked them. */
  private readonly inRow: ReadonlyMap<string, string>;
  private readonly passing: readonly { evidence: Evidence; looks: Looks }[];

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
    this.looks = new Looks(evidence);
    this.inRow = expectedInRow(evidence);
    this.passing = passing.map((one) => ({ evidence: one, looks: new Looks(one, Infinity) }));
  }

  kinOf(look: Look): Look[] {
    return this.passing.flatMap(({ looks }) => looks.like(look) ?? []);
  }

  /**
   * What was so at the first look here, and is a wait all the same: another attempt had to wait for it, the test waits for
   * the same elsewhere, or it looks for an element and does nothing with it.
   */
  isWait(look: Look, kin: readonly Look[], isUsed: (found: StepEvent) => boolean): boolean {
    const asked = new Set(look.steps.map(({ data }) => data.command));
    const waited = ({ steps }: Look): boolean =>
      [...asked].every((one) => steps.some(({ data }) => data.command === one));
    const waits = [this.looks, ...this.passing.map(({ looks }) => looks)].flatMap((looks) => looks.waitsFor(look));
    if (waits.some(waited)) return true;
    const [first] = look.steps;
    const { action, error } = first!.data;
    if (!look.met || look.steps.length > 1 || action !== 'find' || error || isUsed(first!)) return false;
    if (!isMany(first!)) return true;
    const seen = [look, ...kin].map(({ steps }) => countOf(steps[0]!));
    return Math.min(...seen) > 0 && !this.isToldOf(first!);
  }

  private isToldOf(step: StepEvent): boolean {
    return expectedOf({ evidence: this.evidence, step }, []) !== undefined;
  }

  /**
   * Whether an element that was there at its first look in every attempt known is to be waited for all the same: no
   * attempt shows what the test does while it is not there, and a drill is not quite as quick as its test.
   */
  isSureToCome(found: StepEvent): boolean {
    const look = this.looks.of(found);
    if (!look || look.steps[0] !== found || found.data.error || look.wait !== undefined) return false;
    const kin = this.kinOf(look);
    return kin.length > 0 && kin.every(({ steps }) => !steps[0]!.data.error);
  }

  /** What a look that ended the attempt was expected to give, where it had come to its answer and was not waited for. */
  isCheck(look: Look): boolean {
    const last = look.steps.at(-1)!;
    if (look.met || this.limitMs !== undefined || last.data.error) return false;
    return expectedOf({ evidence: this.evidence, step: last }, []) !== undefined;
  }

  /** What a read value was expected to be: as the test told, as its message says, or as passing attempts have it. */
  expectation(step: StepEvent, subject: Subject): Condition | undefined {
    const read = foundBy(step);
    const isLast = step === this.evidence.failing;
    if (read === undefined) return undefined;
    const joined = this.inRow.get(step.id);
    if (joined !== undefined) return { kind: 'value', subject, comparison: 'is', value: joined };
    const look = this.looks.of(step);
    const others = look
      ? this.passing.flatMap(({ evidence, looks }) => {
          const same = looks.like(look)?.steps.find(({ data }) => data.command === step.data.command);
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

  /** What attempts that passed did upon what this one did not find, or was answered otherwise. */
  takenElsewhere(step: StepEvent): TakenElsewhere | undefined {
    const look = this.looks.of(step);
    return look && takenElsewhere(step, look, this.evidence, this.passing);
  }

  /** The wait that a look was; nothing where it cannot be said what for. */
  wait(look: Look, kin: readonly Look[]): Extract<Statement, { do: 'wait' }> | undefined {
    const waits = [look, ...kin].filter(({ wait }) => wait !== undefined);
    const used = Math.max(0, ...waits.map(({ steps }) => endOf(steps.at(-1)!) - steps[0]!.at));
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
    const cameFar = look.wait !== undefined && look.steps.some(({ data }) => data.action !== 'find');
    const model = ended.find(({ wait }) => wait !== undefined) ?? (cameFar ? look : ended[0]) ?? look;
    const last = model.steps.findLast(({ data }) => data.action !== 'find') ?? model.steps.at(-1)!;
    const tries = ({ steps }: Look): StepEvent[] =>
      steps.filter(({ data }) => data.command === last.data.command || (data.action === 'find' && data.error));
    const ends = ended.flatMap((one) => tries(one).at(-1) ?? []);
    const before = all.flatMap((one) => (one.met ? beforeEnd(tries(one)) : tries(one)));
    const target = last.data.locator && drillLocator(last.data.locator);
    // The test went on once nothing was there any more.
    if (target && ends.length && ends.every(({ data }) => data.error && goneCodes.has(data.error.code)))
      return { kind: 'gone', target: { locator: target } };
    if (last.data.action === 'find') {
      if (!target) return undefined;
      if (!isMany(last)) return { kind: 'there', target: { locator: target } };
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
    // Seen at its end only, in several attempts, it always ended so.
    const known = none.length > 0 || !target || end.length > 1 || states.has(subject.what);
    if (compared && known) return { kind: 'value', subject, ...compared };
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
    const value = String(named ?? (ends.length && most > 0 ? least : most + 1));
    return { kind: 'value', subject, comparison: 'is at least', value };
  }
}

/** The tries before a test had what it waited for: what it read again right after it is no try. */
function beforeEnd(tries: readonly StepEvent[]): StepEvent[] {
  if (!tries.length) return [];
  const end = foundBy(tries.at(-1)!);
  let until = tries.length - 1;
  while (until > 0 && foundBy(tries[until - 1]!) === end) until--;
  return tries.slice(0, until);
}

/** What is one of two: seen once, it is what was waited for. */
const states: ReadonlySet<Subject['what']> = new Set(['displayed', 'enabled', 'selected']);
const countOf = (step: StepEvent): number => Number(foundBy(step) ?? 0) || 0;
const isTruthy = (value: string): boolean => !['false', 'null', '0', '', '""'].includes(value);
