import { linearPattern } from '../../core/patterns/linear-pattern.ts';
import type { Condition, Drill, DrillLocator, Line, Subject, Target } from '../../core/drill/drill.ts';
import { printStatement } from '../../core/drill/print.ts';
import { strategyOf } from '../../core/evidence/locator.ts';
import { elementKey } from '../recording/commands.ts';
import type { ToldOutcome } from '../recording/sink.ts';
import { WireFault, type Wire } from './wire.ts';

type Reference = Record<string, string>;

/** A check or wait of the drill that did not hold. */
class CheckFault extends Error {}

/** Errors during which a wait goes on trying. */
const passing = new Set(['no such element', 'stale element reference', 'element not interactable']);

/** Plays one drill through WebDriver, statement by statement, and says how it ended. */
export class Player {
  private readonly held = new Map<string, Reference>();

  constructor(
    private readonly wire: Wire,
    private readonly secrets: Readonly<Record<string, string>>,
    private readonly stopped: () => boolean,
    private readonly check: (label: string, ok: boolean, expected: string, actual: string) => void,
  ) {}

  async play(drill: Drill): Promise<ToldOutcome> {
    for (const line of drill.lines) {
      if (this.stopped()) return { status: 'skipped', message: 'stopped by hand', stack: '' };
      try {
        await this.statement(line);
      } catch (error) {
        const stack = `    at ${printStatement(line)} (drill:${line.line}:1)`;
        const status = error instanceof WireFault || error instanceof CheckFault ? 'failed' : 'errored';
        return { status, message: (error as Error).message, stack };
      }
    }
    return { status: 'passed', message: '', stack: '' };
  }

  private async statement(s: Line): Promise<void> {
    const { wire } = this;
    switch (s.do) {
      case 'window':
        return;
      case 'implicit':
        return void (await wire.send('POST', '/timeouts', { implicit: s.ms }));
      case 'open':
        return void (await wire.send('POST', '/url', { url: s.address }));
      case 'back':
      case 'forward':
        return void (await wire.send('POST', `/${s.do}`));
      case 'reload':
        return void (await wire.send('POST', '/refresh'));
      case 'find':
        this.held.set(s.name, await this.find(s.locator));
        return;
      case 'press':
        return void (await this.onElement(s.target, 'POST', 'click'));
      case 'clear':
        return void (await this.onElement(s.target, 'POST', 'clear'));
      case 'type':
        return void (await this.onElement(s.target, 'POST', 'value', { text: s.text }));
      case 'type secret':
        return void (await this.onElement(s.target, 'POST', 'value', { text: this.secret(s.secret) }));
      case 'actions':
        return void (await wire.send('POST', '/actions', JSON.parse(s.json) as Record<string, unknown>));
      case 'read':
        return void (await this.read(s.subject));
      case 'check':
        return this.checkThat(s);
      case 'wait':
        return this.wait(s);
      case 'pause':
        return new Promise((done) => setTimeout(done, s.ms));
      case 'script':
        return void (await wire.send('POST', '/execute/sync', { script: s.script, args: [] }));
      case 'to window':
        return this.toWindow(s.number);
      case 'to frame':
        return this.toFrame(s);
      case 'close window':
        return void (await wire.send('DELETE', '/window'));
      case 'dialog':
        if (s.text !== undefined) await wire.send('POST', '/alert/text', { text: s.text });
        return void (await wire.send('POST', `/alert/${s.answer}`));
      case 'screenshot':
        return void (await wire.send('GET', '/screenshot'));
    }
  }

  private secret(name: string): string {
    const value = this.secrets[name];
    if (value === undefined) {
      const variable = `ISKEL_SECRET_${name.toUpperCase().replaceAll('-', '_')}`;
      throw new Error(`the secret “${name}” is not known here; set ${variable} for the server and play again`);
    }
    return value;
  }

  private async find(locator: DrillLocator): Promise<Reference> {
    const using = strategyOf(locator.by) ?? locator.by;
    const root = locator.within ? `/element/${(await this.element(locator.within))[elementKey]}` : '';
    if (!locator.match || locator.match === 1)
      return this.wire.send<Reference>('POST', `${root}/element`, { using, value: locator.value });
    const all = await this.wire.send<Reference[]>('POST', `${root}/elements`, { using, value: locator.value });
    const found = all[locator.match - 1];
    if (!found)
      throw new WireFault(
        'no such element',
        `${locator.by} ${JSON.stringify(locator.value)} has ${all.length} matches, not ${locator.match}`,
      );
    return found;
  }

  private async element(target: Target): Promise<Reference> {
    return 'name' in target ? this.held.get(target.name)! : this.find(target.locator);
  }

  private async onElement<T = unknown>(
    target: Target,
    method: string,
    tail: string,
    body: Record<string, unknown> = {},
  ): Promise<T> {
    const element = await this.element(target);
    return this.wire.send<T>(method, `/element/${element[elementKey]}/${tail}`, body);
  }

  private async read(subject: Subject): Promise<string> {
    const key = encodeURIComponent(subject.key ?? '');
    switch (subject.what) {
      case 'title':
        return this.wire.send<string>('GET', '/title');
      case 'address':
        return this.wire.send<string>('GET', '/url');
      case 'count': {
        const target = subject.of!;
        if ('name' in target) return '1';
        const body = { using: strategyOf(target.locator.by) ?? target.locator.by, value: target.locator.value };
        return String((await this.wire.send<unknown[]>('POST', '/elements', body)).length);
      }
      case 'attribute':
      case 'property':
        return String(await this.onElement(subject.of!, 'GET', `${subject.what}/${key}`));
      case 'style':
        return String(await this.onElement(subject.of!, 'GET', `css/${key}`));
      default:
        return String(await this.onElement(subject.of!, 'GET', subject.what));
    }
  }

  private async checkThat(s: Extract<Line, { do: 'check' }>): Promise<void> {
    const actual = await this.read(s.subject);
    const ok = holds(actual, s.comparison, s.value);
    this.check(printStatement(s), ok, s.value, actual);
    if (!ok)
      throw new CheckFault(
        s.comparison === 'is'
          ? `expected "${s.value}" but got "${actual}"`
          : `"${actual}" does not fulfil: ${s.comparison} "${s.value}"`,
      );
  }

  private async wait(s: Extract<Line, { do: 'wait' }>): Promise<void> {
    const end = performance.now() + s.limitMs;
    for (;;) {
      if (await this.met(s.until)) return;
      if (performance.now() >= end || this.stopped())
        throw new CheckFault(`timed out after ${s.limitMs} ms: ${printStatement(s)}`);
      await new Promise((done) => setTimeout(done, s.everyMs));
    }
  }

  private async met(until: Condition): Promise<boolean> {
    try {
      if (until.kind === 'there') return Boolean(await this.element(until.target));
      if (until.kind === 'script')
        return Boolean(await this.wire.send('POST', '/execute/sync', { script: until.script, args: [] }));
      return holds(await this.read(until.subject), until.comparison, until.value);
    } catch (error) {
      if (error instanceof WireFault && passing.has(error.code)) return false;
      throw error;
    }
  }

  private async toWindow(number: number): Promise<void> {
    const handles = await this.wire.send<string[]>('GET', '/window/handles');
    const own = handles.filter((handle) => !this.foreign.has(handle));
    const handle = own[number - 1];
    if (!handle) throw new WireFault('no such window', `there are ${own.length} windows, not ${number}`);
    await this.wire.send('POST', '/window', { handle });
  }

  /** Windows of the session that do not belong to this trial. */
  readonly foreign = new Set<string>();

  private async toFrame(s: Extract<Line, { do: 'to frame' }>): Promise<void> {
    if (s.where === 'parent') await this.wire.send('POST', '/frame/parent');
    else if (s.where === 'top') await this.wire.send('POST', '/frame', { id: null });
    else if (s.target) await this.wire.send('POST', '/frame', { id: await this.element(s.target) });
    else await this.wire.send('POST', '/frame', { id: (s.number ?? 1) - 1 });
  }
}

function holds(actual: string, comparison: string, value: string): boolean {
  switch (comparison) {
    case 'is':
      return actual === value;
    case 'is not':
      return actual !== value;
    case 'contains':
      return actual.includes(value);
    default:
      return linearPattern(value).fits(actual);
  }
}
