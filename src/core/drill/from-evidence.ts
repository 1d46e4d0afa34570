import { endOf, type Locator, type StepEvent } from '../evidence/event.ts';
import { maskMark } from '../evidence/masking.ts';
import { nameAt } from '../evidence/lifelines.ts';
import { readValues } from '../failures/values.ts';
import { locatorKey, strategyName } from '../evidence/locator.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { median } from '../stats/median.ts';
import {
  elementSubjects,
  pageSubjects,
  strategies,
  type Condition,
  type Drill,
  type DrillLocator,
  type Line,
  type Statement,
  type Subject,
  type Target,
} from './drill.ts';

/** Silences of the client from this length on are part of what it did; shorter ones are its own speed. */
const tellingSilenceMs = 20;
const fallbackLimitMs = 5000;

const readable: Record<string, Subject['what']> = {
  text: 'text',
  attribute: 'attribute',
  property: 'property',
  css: 'style',
  displayed: 'displayed',
  enabled: 'enabled',
  selected: 'selected',
  title: 'title',
  address: 'address',
};

/**
 * A drill that does what an attempt did, up to the step it failed at: the same commands in the same
 * order and at the same pace, elements held where the test held them, waits where it polled, and the
 * checks it told of. What could not be carried over is said in the remarks.
 */
export function drillFromEvidence(
  evidence: Evidence,
  title: string,
  limitMs?: number,
): { drill: Drill; remarks: string[] } {
  return new Builder(evidence, limitMs).build(title);
}

class Builder {
  private readonly lines: Statement[] = [];
  private readonly remarks: string[] = [];
  private readonly names = new Map<string, string>();
  private readonly usedNames = new Set<string>();
  private readonly steps: StepEvent[];
  private lastEnd: number | undefined;

  constructor(
    private readonly evidence: Evidence,
    private readonly limitMs: number | undefined,
  ) {
    const last = evidence.failing;
    this.steps = last ? evidence.steps.filter((step) => step.at <= last.at) : evidence.steps;
  }

  build(title: string): { drill: Drill; remarks: string[] } {
    const { width, height } = this.evidence.facts.environment;
    if (width && height) this.lines.push({ do: 'window', width, height });
    for (let i = 0; i < this.steps.length; i++) {
      const step = this.steps[i]!;
      const wait = this.evidence.insideWait.get(step.id);
      this.silenceBefore(step);
      if (wait) {
        while (this.evidence.insideWait.get(this.steps[i + 1]?.id ?? '') === wait) i++;
        this.wait(wait, this.steps[i]!);
      } else {
        this.step(step, this.steps[i + 1]);
      }
      this.lastEnd = endOf(this.steps[i]!);
    }
    return {
      drill: { title, lines: this.lines.map((line, i): Line => ({ ...line, line: i + 1 })) },
      remarks: this.remarks,
    };
  }

  private silenceBefore(step: StepEvent): void {
    const silence = this.lastEnd === undefined ? 0 : Math.round(step.at - this.lastEnd);
    if (silence >= tellingSilenceMs) this.lines.push({ do: 'pause', ms: silence });
  }

  private step(step: StepEvent, next: StepEvent | undefined): void {
    const data = step.data;
    switch (data.action) {
      case 'open':
        this.lines.push({ do: 'open', address: data.input ?? '' });
        break;
      case 'navigate':
        this.lines.push({ do: data.command === 'back' ? 'back' : data.command === 'forward' ? 'forward' : 'reload' });
        break;
      case 'find':
        this.find(step, next);
        break;
      case 'press':
        this.onTarget(step, (target) => ({ do: 'press', target }));
        break;
      case 'clear':
        this.onTarget(step, (target) => ({ do: 'clear', target }));
        break;
      case 'type':
        this.onTarget(step, (target) =>
          data.input?.includes(maskMark)
            ? { do: 'type secret', secret: secretName(step), target }
            : { do: 'type', text: data.input ?? '', target },
        );
        break;
      case 'read':
        this.read(step);
        break;
      case 'script':
        this.lines.push({ do: 'script', script: data.input ?? '' });
        break;
      case 'keys':
        if (data.input?.includes(maskMark)) this.remark(step);
        else this.lines.push({ do: 'actions', json: data.input ?? '{"actions":[]}' });
        break;
      case 'window':
        if (typeof data.number === 'number') this.lines.push({ do: 'to window', number: data.number });
        else if (data.command === 'close window') this.lines.push({ do: 'close window' });
        else if (data.command === 'set window rect') this.remark(step);
        break;
      case 'frame':
        this.frame(step);
        break;
      case 'dialog':
        if (data.command === 'accept alert' || data.command === 'dismiss alert') {
          this.lines.push({ do: 'dialog', answer: data.command === 'accept alert' ? 'accept' : 'dismiss' });
        }
        break;
      case 'settings':
        if (typeof data.implicit === 'number') this.lines.push({ do: 'implicit', ms: data.implicit });
        break;
      case 'picture':
        break;
      default:
        this.remark(step);
    }
  }

  private find(step: StepEvent, next: StepEvent | undefined): void {
    const locator = step.data.locator;
    if (!locator || step.data.command === 'get active element') return this.remark(step);
    const drillLocator = this.locator(locator);
    if (!drillLocator) return this.remark(step);
    const many = step.data.command.startsWith('find elements');
    const uses = this.steps.filter((other) => other.data.foundBy === step.id);
    if (many && uses.length === 0) {
      this.lines.push({ do: 'read', subject: { what: 'count', of: { locator: drillLocator } } });
      return;
    }
    // Found and used at once, and only then: the locator can stand in the statement itself.
    const inline =
      !many &&
      uses.length === 1 &&
      next !== undefined &&
      uses[0] === next &&
      !this.evidence.insideWait.has(next.id) &&
      next.at - endOf(step) < tellingSilenceMs;
    if (inline) return;
    for (const index of many ? new Set(uses.map((use) => use.data.locator?.index ?? 0)) : [0]) {
      const name = this.nameFor(step);
      this.names.set(`${step.id}/${index}`, name);
      this.lines.push({ do: 'find', name, locator: index ? { ...drillLocator, match: index + 1 } : drillLocator });
    }
  }

  private nameFor(step: StepEvent): string {
    const line = step.data.locator && this.evidence.lifelines.get(locatorKey(step.data.locator));
    const words = (line && nameAt(line, endOf(step))) || step.data.locator?.value || 'element';
    const base = slug(words) || slug(step.data.locator?.value ?? '') || 'element';
    let name = reserved.has(base) ? `the-${base}` : base;
    for (let n = 2; this.usedNames.has(name); n++) name = `${base}-${n}`;
    this.usedNames.add(name);
    return name;
  }

  private target(step: StepEvent): Target | undefined {
    const name = this.names.get(`${step.data.foundBy}/${step.data.locator?.index ?? 0}`);
    if (name) return { name };
    const locator = step.data.locator && this.locator(step.data.locator);
    return locator && { locator };
  }

  private onTarget(step: StepEvent, make: (target: Target) => Statement): void {
    const target = this.target(step);
    if (target) this.lines.push(make(target));
    else this.remark(step);
  }

  private locator(locator: Locator): DrillLocator | undefined {
    const by = strategyName(locator.using);
    if (!(strategies as readonly string[]).includes(by)) return undefined;
    const within = locator.within && this.locator(locator.within);
    if (locator.within && !within) return undefined;
    return {
      by,
      value: locator.value,
      ...(locator.index ? { match: locator.index + 1 } : {}),
      ...(within ? { within: { locator: within } } : {}),
    };
  }

  private subject(step: StepEvent): Subject | undefined {
    const [word = '', ...rest] = (step.data.subject ?? '').split(' ');
    const what = readable[word];
    if (!what) return undefined;
    if (what === 'title' || what === 'address') return { what };
    const of = this.target(step);
    return of && { what, ...(rest.length ? { key: rest.join(' ') } : {}), of };
  }

  private read(step: StepEvent): void {
    const subject = this.subject(step);
    if (!subject) return this.remark(step);
    const check = this.checkOn(step);
    this.lines.push(
      check === undefined ? { do: 'read', subject } : { do: 'check', subject, comparison: 'is', value: check },
    );
  }

  /** What a read value was expected to be, when the test told a check on it or the failure names it. */
  private checkOn(step: StepEvent): string | undefined {
    const next = this.evidence.steps.find((other) => other.at > step.at);
    const check = this.evidence.notes.find(
      (n) => n.kind === 'check' && n.at >= step.at && n.at <= (next?.at ?? Infinity),
    );
    const read = String(step.data.result ?? '');
    if (check?.data.expected !== undefined && check.data.actual === read) {
      if (check.data.ok === false || check.data.expected === read) return check.data.expected;
    }
    if (step === this.evidence.failing && !step.data.error) return this.expectedFor(read);
    return undefined;
  }

  private expectedFor(read: string): string | undefined {
    const values = readValues(this.evidence.facts.message);
    if (!values || !read) return undefined;
    return values.actual === read ? values.expected : values.expected === read ? values.actual : undefined;
  }

  private wait(id: string, last: StepEvent): void {
    const wait = this.evidence.waits.find((event) => event.id === id)!;
    const polls = this.evidence.polls.filter((poll) => poll.data.wait === id);
    const gaps = polls.slice(1).map((poll, i) => poll.at - endOf(polls[i]!));
    const everyMs = gaps.length ? Math.max(0, Math.round(median(gaps))) : 100;
    const met = wait.data.ok === true;
    const used = endOf(wait) - wait.at;
    const limitMs = Math.round(this.limitMs ?? (met ? Math.max(fallbackLimitMs, used * 2) : Math.max(500, used)));
    const until = this.condition(
      last,
      polls.map((poll) => poll.data.saw),
      met,
    );
    if (until) this.lines.push({ do: 'wait', until, limitMs, everyMs });
    else this.remark(wait);
    const found = this.steps.findLast(
      (step) => this.evidence.insideWait.get(step.id) === id && step.data.action === 'find' && !step.data.error,
    );
    if (
      met &&
      found &&
      this.steps.some((step) => step.data.foundBy === found.id && !this.evidence.insideWait.has(step.id))
    )
      this.find(found, undefined);
  }

  private condition(last: StepEvent, saw: readonly string[], met: boolean): Condition | undefined {
    if (last.data.action === 'script') return { kind: 'script', script: last.data.input ?? '' };
    const locator = last.data.locator && this.locator(last.data.locator);
    if (last.data.action === 'find') return locator && { kind: 'there', target: { locator } };
    const base = this.subject(last);
    if (!base) return undefined;
    const subject: Subject = base.of && locator ? { ...base, of: { locator } } : base;
    // What ended the wait is known by what had not ended it: the last value seen before.
    const before = saw.findLast((value) => value !== saw.at(-1));
    if (!met || before === undefined) return { kind: 'value', subject, comparison: 'is not', value: saw.at(-1) ?? '' };
    return wireCode(before)
      ? locator && { kind: 'there', target: { locator } }
      : { kind: 'value', subject, comparison: 'is not', value: before };
  }

  private frame(step: StepEvent): void {
    if (step.data.command === 'switch to parent frame') this.lines.push({ do: 'to frame', where: 'parent' });
    else if (step.data.element) this.onTarget(step, (target) => ({ do: 'to frame', target }));
    else if (typeof step.data.number === 'number') this.lines.push({ do: 'to frame', number: step.data.number + 1 });
    else this.lines.push({ do: 'to frame', where: 'top' });
  }

  private remark(step: StepEvent): void {
    this.remarks.push(`not carried over: ${step.data.label} (${step.data.command})`);
  }
}

const wireCode = (saw: string): boolean =>
  /^(no such element|stale element reference|element not interactable)$/.test(saw);

/** Words that mean something where a name may stand. */
const reserved = new Set([
  ...strategies.flatMap((by) => by.split(' ')),
  ...elementSubjects,
  ...pageSubjects,
  'script',
  'secret',
  'top',
  'parent',
]);

const slug = (words: string): string =>
  words
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|(?<!-)-+$/g, '')
    .replace(/^(?=\d)/, 'e-')
    .split('-')
    .slice(0, 4)
    .join('-');

const secretName = (step: StepEvent): string => slug(step.data.locator?.value ?? 'secret') || 'secret';
