import { endOf, type StepEvent } from '../evidence/event.ts';
import { elementKey } from '../evidence/action-words.ts';
import { locatorKey } from '../evidence/locator.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { asking } from '../evidence/waits.ts';
import type { Amount, Condition, Drill, DrillLocator, Line, Statement, Subject, Target, Value } from './drill.ts';
import { drillLocator, Elements, slug } from './elements.ts';
import { Expectations } from './expectations.ts';
import { isMany, type Look } from './looks.ts';
import { onlyWhen } from './taken-elsewhere.ts';
import { statementsOf, type Known } from './pointer-words.ts';
import { placeFrom, textFrom, type Taken } from './remembered.ts';

/** Silences of the client from this length on are part of what it did; shorter ones are its own speed. */
const tellingSilenceMs = 20;

/** What a drill is made from besides the attempt itself. */
export interface DrillSources {
  /** How long the wait that ran out was meant to take, where it was told, ms. */
  limitMs?: number;
  /** Attempts of the same test that passed: they know what its waits and checks end at. */
  passing?: readonly Evidence[];
}

/** A drill, what could not be carried over into it, and what its lines were drawn from. */
export interface MadeDrill {
  drill: Drill;
  remarks: string[];
  /** Ids of the steps each line was drawn from, by the lines' places. */
  origins: string[][];
}

/**
 * A drill that does what an attempt did, up to the step it failed at: the same commands in the same
 * order and at the same pace, elements held where the test held them, waits where it polled in any attempt, and the
 * checks it told of or that its message names. What could not be carried over is said in the remarks.
 */
export function drillFromEvidence(evidence: Evidence, title: string, sources: DrillSources = {}): MadeDrill {
  return new Builder(evidence, sources).build(title);
}

class Builder {
  private readonly lines: Statement[] = [];
  private readonly origins: string[][] = [];
  private readonly remarks: string[] = [];
  private readonly steps: StepEvent[];
  private readonly elements: Elements;
  private readonly expectations: Expectations;
  /** Names of answers that later commands took something from, by the step that gave them. */
  private readonly memories = new Map<string, string>();
  private lastEnd: number | undefined;
  /** Whether finds wait for their element. */
  private implicit = false;

  constructor(
    private readonly evidence: Evidence,
    { limitMs, passing = [] }: DrillSources,
  ) {
    const last = evidence.failing;
    this.steps = last ? evidence.steps.filter((step) => step.at <= last.at) : evidence.steps;
    this.elements = new Elements(evidence, this.steps);
    this.expectations = new Expectations(
      evidence,
      passing,
      this.elements,
      limitMs,
      (words) => void this.remarks.push(words),
    );
  }

  build(title: string): MadeDrill {
    const { width, height } = this.evidence.facts.environment;
    if (width && height) this.lines.push({ do: 'window', width, height });
    this.origins.push(...this.lines.map(() => []));
    this.remember();
    for (let i = 0; i < this.steps.length; i++) {
      const step = this.steps[i]!;
      const first = i;
      const asked = this.expectations.looks.of(step);
      const look = asked?.steps[0] === step ? asked : undefined;
      const kin = look ? this.expectations.kinOf(look) : [];
      this.silenceBefore(step);
      const isUsed = (found: StepEvent): boolean => this.elements.usesOf(found).length > 0;
      if (look && look.wait !== undefined && this.expectations.isCheck(look)) {
        i += look.steps.length - 1;
        this.checked(look);
      } else if (look && this.expectations.isCheck(look) && kin.some(({ wait }) => wait !== undefined)) {
        i += look.steps.length - 1;
        this.checkedOnceMet(look, kin);
      } else if (
        look &&
        !this.expectations.isCheck(look) &&
        (look.wait !== undefined || this.expectations.isWait(look, kin, isUsed))
      ) {
        i += look.steps.length - 1;
        this.wait(look, kin);
      } else {
        this.step(step, this.steps[i + 1]);
      }
      this.lastEnd = endOf(this.steps[i]!);
      const ids = this.steps.slice(first, i + 1).map(({ id }) => id);
      while (this.origins.length < this.lines.length) this.origins.push(ids);
    }
    return {
      drill: { title, lines: this.lines.map((line, i): Line => ({ ...line, line: i + 1 })) },
      remarks: this.remarks,
      origins: this.origins,
    };
  }

  private silenceBefore(step: StepEvent): void {
    const silence = this.lastEnd === undefined ? 0 : Math.round(step.at - this.lastEnd);
    if (silence >= tellingSilenceMs) this.lines.push({ do: 'pause', ms: silence });
  }

  /** Finds out whose answers are needed later: places worked out from what a script measured, texts typed as they were read. */
  private remember(): void {
    for (const step of this.steps) {
      if (step.data.action === 'type' && step.data.input) {
        const from = textFrom(this.steps, step, step.data.input);
        if (from) this.memoryOf(from, 'text-read');
      }
      if (step.data.command === 'perform actions')
        statementsOf(step, {
          target: () => ({ name: '' }),
          place: (x, y) => {
            const taken = placeFrom(this.steps, step, x, y);
            if (taken) this.memoryOf(taken.x.from, 'place');
            return { x, y };
          },
        });
    }
  }

  private memoryOf(step: StepEvent, word: string): string {
    const known = this.memories.get(step.id);
    if (known) return known;
    const name = this.elements.free(word);
    this.memories.set(step.id, name);
    return name;
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
            : { do: 'type', text: this.typed(step), target },
        );
        break;
      case 'read':
        this.read(step);
        break;
      case 'script':
        this.script(step);
        break;
      case 'keys':
        this.keys(step);
        break;
      case 'window':
        this.window(step);
        break;
      case 'frame':
        this.frame(step);
        break;
      case 'dialog':
        this.dialog(step);
        break;
      case 'settings':
        this.settings(step);
        break;
      case 'cookie':
        this.cookie(step);
        break;
      case 'picture':
        break;
      default:
        if (data.command !== 'get window handle' && data.command !== 'get window handles') this.remark(step);
    }
  }

  private typed(step: StepEvent): Value {
    const text = step.data.input ?? '';
    const from = textFrom(this.steps, step, text);
    const name = from && this.memories.get(from.id);
    return name ? { parts: [{ name }] } : text;
  }

  private keys(step: StepEvent): void {
    if (step.data.input?.includes(maskMark)) return this.remark(step);
    const known: Known = {
      target: (element) => this.elements.given(step, element),
      place: (x, y) => {
        const taken = placeFrom(this.steps, step, x, y);
        return taken ? { x: this.amount(taken.x), y: this.amount(taken.y) } : { x, y };
      },
    };
    const statements = statementsOf(step, known);
    if (statements) this.lines.push(...statements);
    // Elements are other ones each time: as JSON they would be unknown.
    else if (step.data.input?.includes(elementKey) || !isJson(step.data.input)) this.remark(step);
    else this.lines.push({ do: 'actions', json: step.data.input! });
  }

  private amount({ from, path, plus }: Taken): Amount {
    return { of: { name: this.memoryOf(from, 'place'), path }, plus };
  }

  private script(step: StepEvent): void {
    const subject = this.elements.subject(step);
    if (!subject) return this.remark(step);
    const { script = '', arguments: given } = subject;
    const name = this.memories.get(step.id);
    const rest = { script, ...(given ? { arguments: given } : {}) };
    if (name) this.lines.push({ do: 'remember script', name, ...rest });
    const that = this.expectations.expectation(step, subject);
    if (that) this.lines.push({ do: 'check', that });
    else if (!name) this.lines.push(...this.taken(step, isSo(subject), { do: 'script', ...rest }));
  }

  private find(step: StepEvent, next: StepEvent | undefined): void {
    const locator = step.data.locator;
    if (!locator || step.data.command === 'get active element') return this.remark(step);
    const found = drillLocator(locator);
    if (!found) return this.remark(step);
    const many = isMany(step);
    const uses = this.elements.usesOf(step);
    // It was not there, and the test went on without it: a find would end the drill here.
    const missed = step.data.error !== undefined && step !== this.evidence.failing;
    if (missed || (many && uses.length === 0)) {
      const subject: Subject = { what: 'count', of: { locator: found } };
      const that = missed ? undefined : this.expectations.expectation(step, subject);
      if (that) this.lines.push({ do: 'check', that });
      else this.lines.push(...this.taken(step, { kind: 'there', target: { locator: found } }, { do: 'read', subject }));
      return;
    }
    // Where finds wait by themselves nothing is added: what takes longer than it did makes another flake.
    if (!many && !this.implicit && this.arrived(step) && this.expectations.isSureToCome(step))
      this.untilThere(found, 50);
    // Found and used at once, and only then: the locator can stand in the statement itself. What went stale was held.
    const inline =
      !many &&
      uses.length === 1 &&
      next !== undefined &&
      uses[0] === next &&
      !this.evidence.insideWait.has(next.id) &&
      next.data.error?.code !== 'stale element reference' &&
      next.at - endOf(step) < tellingSilenceMs;
    if (inline) return;
    for (const index of many ? new Set(uses.map((use) => use.data.locator?.index ?? 0)) : [0])
      this.lines.push({
        do: 'find',
        name: this.elements.hold(step, index),
        locator: index ? { ...found, match: index + 1 } : found,
      });
  }

  private onTarget(step: StepEvent, make: (target: Target) => Statement): void {
    const target = this.elements.target(step);
    if (target) this.lines.push(make(target));
    else this.remark(step);
  }

  private read(step: StepEvent): void {
    const name = this.memories.get(step.id);
    if (step.data.command === 'get element rect' && name)
      return this.onTarget(step, (target) => ({ do: 'remember place', name, target }));
    const subject = this.elements.subject(step);
    if (!subject) return this.remark(step);
    if (name) this.lines.push({ do: 'remember', name, subject });
    const that = this.expectations.expectation(step, subject);
    if (that) this.lines.push({ do: 'check', that });
    else if (!name) this.lines.push(...this.taken(step, isSo(subject), { do: 'read', subject }));
  }

  private wait(look: Look, kin: readonly Look[]): void {
    const statement = this.expectations.wait(look, kin);
    const last = look.steps.at(-1)!;
    if (statement) this.lines.push(statement);
    else this.remark(last);
    const name = this.memories.get(last.id);
    const subject = name ? this.elements.subject(last, true) : undefined;
    if (name && subject) this.lines.push({ do: 'remember', name, subject });
    this.checkedAfter(last);
    this.heldAfter(look);
  }

  /** Asked again and again until it was there, and then not what was expected. */
  private checked({ steps }: Look): void {
    const last = steps.at(-1)!;
    const target = last.data.locator && drillLocator(last.data.locator);
    if (target) this.untilThere(target, 100);
    if (!this.checkOf(last)) this.remark(last);
  }

  /** It had come to its answer at the first look, where other attempts waited for one: a drill may be sooner. */
  private checkedOnceMet(look: Look, kin: readonly Look[]): void {
    const statement = this.expectations.wait({ ...look, met: true }, kin);
    if (statement) this.lines.push(statement);
    const last = look.steps.at(-1)!;
    if (!this.checkOf(last)) this.remark(last);
  }

  private untilThere(locator: DrillLocator, everyMs: number): void {
    this.lines.push({ do: 'wait', until: { kind: 'there', target: { locator } }, limitMs: 5000, everyMs });
  }

  /** Checks, on the element found anew, what a step was expected to give; tells whether anything is known of it. */
  private checkOf(step: StepEvent): boolean {
    const subject = this.elements.subject(step, true);
    const that = subject && this.expectations.expectation(step, subject);
    if (that) this.lines.push({ do: 'check', that });
    return that !== undefined;
  }

  /** What a test told of the value that ended its wait. */
  private checkedAfter(last: StepEvent): void {
    if (last === this.evidence.failing || !asking.has(last.data.action) || last.data.action === 'find') return;
    this.checkOf(last);
  }

  /** Whether a find is the first for its locator since the test last did something, or went elsewhere. */
  private arrived(found: StepEvent): boolean {
    const key = found.data.locator && locatorKey(found.data.locator);
    const before = this.steps.slice(0, this.steps.indexOf(found));
    const act = before.findLastIndex(({ data }) => !asking.has(data.action));
    return !before.slice(act + 1).some(({ data }) => data.locator && locatorKey(data.locator) === key);
  }

  /** What hung on something being there, or on the answer to a question, as attempts that passed have it. */
  private taken(asked: StepEvent, that: Condition, plainly: Statement): Statement[] {
    const taken = this.expectations.takenElsewhere(asked);
    const upon = taken?.upon === undefined || that.kind !== 'value' ? that : { ...that, value: taken.upon };
    const statements = taken ? onlyWhen(taken, upon) : [];
    return statements.length ? statements : [plainly];
  }

  /** What a wait found is held from then on, where the test used it later. */
  private heldAfter({ steps, met }: Look): void {
    const found = met ? steps.findLast(({ data }) => data.action === 'find' && !data.error) : undefined;
    if (!found || this.elements.usesOf(found).every((step) => steps.includes(step))) return;
    this.find(found, undefined);
  }

  private window(step: StepEvent): void {
    const { command, number, input } = step.data;
    if (command === 'close window') this.lines.push({ do: 'close window' });
    else if (command === 'new window')
      this.lines.push({ do: 'new window', what: input === 'window' ? 'window' : 'tab' });
    else if (command === 'set window rect') this.size(step);
    else if (command !== 'switch to window') this.remark(step);
    else if (this.isNewest(step)) this.lines.push({ do: 'to newest window' });
    else if (typeof number === 'number') this.lines.push({ do: 'to window', number });
    else this.remark(step);
  }

  /** Whether a test went to the window that had been opened last, of several. */
  private isNewest(step: StepEvent): boolean {
    const { window: told } = this.evidence;
    const events = told.filter(({ at }) => at <= step.at);
    const closed = new Set(events.flatMap(({ kind, data }) => (kind === 'closed' ? [data.context] : [])));
    const open = events.filter(({ kind, data }) => kind === 'opened' && !closed.has(data.context));
    return open.length > 1 && open.at(-1)!.data.context === step.data.handle;
  }

  private size(step: StepEvent): void {
    const { width, height } = (isJson(step.data.input) ? JSON.parse(step.data.input!) : {}) as Record<string, unknown>;
    if (typeof width !== 'number' || typeof height !== 'number') return this.remark(step);
    // A window that was sized before anything was opened began so.
    const isFirst = !this.lines.some((line) => line.do !== 'window');
    if (isFirst) this.lines.length = this.origins.length = 0;
    this.lines.push({ do: 'window', width: Math.round(width), height: Math.round(height) });
  }

  private dialog({ data }: StepEvent): void {
    if (data.command === 'get alert text') this.lines.push({ do: 'read', subject: { what: 'dialog' } });
    else if (data.command === 'send alert text') this.answer = data.input ?? '';
    else {
      const text = this.answer;
      this.answer = undefined;
      const answer = data.command === 'accept alert' ? 'accept' : 'dismiss';
      this.lines.push({ do: 'dialog', answer, ...(text !== undefined && answer === 'accept' ? { text } : {}) });
    }
  }
  private answer: string | undefined;

  private settings({ data }: StepEvent): void {
    if (typeof data.implicit === 'number') {
      this.implicit = data.implicit > 0;
      this.lines.push({ do: 'implicit', ms: data.implicit });
    }
    if (typeof data.pageLoad === 'number') this.lines.push({ do: 'limit', of: 'page load', ms: data.pageLoad });
    if (typeof data.script === 'number') this.lines.push({ do: 'limit', of: 'script', ms: data.script });
  }

  private cookie(step: StepEvent): void {
    const { command, input } = step.data;
    if (command === 'delete cookies') this.lines.push({ do: 'forget cookies' });
    else if (command === 'delete cookie' && input) this.lines.push({ do: 'forget cookies', name: input });
    else if (command === 'add cookie' && input)
      this.remarks.push(`the test set the cookie “${input}”, whose value is never kept; add a line: cookie "…" is "…"`);
    else this.remark(step);
  }

  private frame(step: StepEvent): void {
    if (step.data.command === 'switch to parent frame') this.lines.push({ do: 'to frame', where: 'parent' });
    else if (step.data.element) this.onTarget(step, (target) => ({ do: 'to frame', target }));
    else if (typeof step.data.number === 'number') this.lines.push({ do: 'to frame', number: step.data.number + 1 });
    else this.lines.push({ do: 'to frame', where: 'top' });
  }

  private remark(step: StepEvent): void {
    if (asking.has(step.data.action) && step !== this.evidence.failing && step.data.command === 'get page source')
      return;
    this.remarks.push(`not carried over: ${step.data.label} (${step.data.command})`);
  }
}

function isJson(text: string | undefined): boolean {
  try {
    JSON.parse(text ?? '');
    return true;
  } catch {
    return false;
  }
}

const secretName = (step: StepEvent): string => slug(step.data.locator?.value ?? 'secret') || 'secret';

const isSo = (subject: Subject): Condition => ({ kind: 'value', subject, comparison: 'is', value: '' });
