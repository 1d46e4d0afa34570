import { drawn } from '../../core/drill/draws.ts';
import { acts, type Condition, type Drill, type Line, type Target } from '../../core/drill/drill.ts';
import { printStatement } from '../../core/drill/print.ts';
import { keysNamed } from '../../core/evidence/keys.ts';
import { seeded } from '../../core/stats/seeded.ts';
import { clock } from '../recording/clock.ts';
import { elementKey } from '../recording/commands.ts';
import type { ToldOutcome } from '../recording/sink.ts';
import { Conditions } from './conditions.ts';
import type { Hears } from './hears.ts';
import { DrillPage } from './page.ts';
import { usualPermits, type Permits } from './permits.ts';
import { clicking, dragging, hovering, pressingKeys, rolling } from './pointing.ts';
import { WireFault, WireGone, type Wire } from './wire.ts';

/** A check or wait of the drill that did not hold. */
class CheckFault extends Error {}

/** What a trial lends its player. */
export interface Lent {
  hears?: Hears;
  /** Which of its series this trial is, from 1: each draws other data, and the same again when it is played again. */
  number?: number;
  noted?: (words: string) => void;
  /** The paths of files that are kept, for what a file field is given; nothing where none is. */
  given?: (typed: string) => string | undefined;
  /** What it may reach; without it what any drill of this machine may. */
  permits?: Permits;
  /** Told how long each line took, ms, as it ends well. */
  took?: (ms: number) => void;
}

const script = { scroll: 'arguments[0].scrollIntoView({ block: "center", inline: "nearest" })' };

/** Plays one drill through WebDriver, statement by statement, and says how it ended. */
export class Player {
  private readonly page: DrillPage;
  private readonly conditions: Conditions;
  private random: () => number;
  private sized = false;

  constructor(
    private readonly wire: Wire,
    private readonly secrets: Readonly<Record<string, string>>,
    private readonly stopped: () => boolean,
    private readonly check: (label: string, ok: boolean, expected: string, actual: string) => void,
    private readonly lent: Lent = {},
  ) {
    this.page = new DrillPage(wire, () => lent.hears?.opened() ?? []);
    this.conditions = new Conditions(this.page, lent.hears);
    this.random = seeded(lent.number ?? 1);
  }

  /** Windows of the session that do not belong to this trial. */
  get foreign(): Set<string> {
    return this.page.foreign;
  }

  /** @throws WireGone when the browser is gone or hangs */
  async play(drill: Drill): Promise<ToldOutcome> {
    for (const line of drill.lines) {
      if (this.stopped()) return { status: 'skipped', message: 'stopped by hand', stack: '' };
      try {
        const began = performance.now();
        if (acts.has(line.do)) this.conditions.since = clock();
        await this.statement(line);
        this.lent.took?.(performance.now() - began);
      } catch (error) {
        if (error instanceof WireGone) throw error;
        const stack = `    at ${printStatement(line)} (drill:${line.line}:1)`;
        const status = error instanceof WireFault || error instanceof CheckFault ? 'failed' : 'errored';
        return { status, message: (error as Error).message, stack };
      }
    }
    return { status: 'passed', message: '', stack: '' };
  }

  private async statement(s: Line): Promise<void> {
    const { wire, page } = this;
    const act = (body: Record<string, unknown>): Promise<unknown> => wire.send('POST', '/actions', body);
    switch (s.do) {
      case 'window':
        return this.size(s.width, s.height);
      case 'implicit':
        return void (await wire.send('POST', '/timeouts', { implicit: s.ms }));
      case 'limit':
        return void (await wire.send('POST', '/timeouts', { [s.of === 'script' ? 'script' : 'pageLoad']: s.ms }));
      case 'seed':
        this.random = seeded(s.number + (this.lent.number ?? 1) - 1);
        return;
      case 'group':
      case 'note':
        return this.lent.noted?.(s.words);
      case 'open':
        return this.open(page.text(s.address));
      case 'back':
      case 'forward':
        return void (await wire.send('POST', `/${s.do}`));
      case 'reload':
        return void (await wire.send('POST', '/refresh'));
      case 'find':
        page.held.set(s.name, await page.find(s.locator));
        return;
      case 'remember':
        return void page.memory.set(s.name, await page.read(s.subject));
      case 'remember place':
        return void page.memory.set(s.name, await page.placeOf(s.target));
      case 'remember script':
        return void page.memory.set(s.name, await page.script(s.script, s.arguments));
      case 'draw': {
        const text = drawn(s.from, this.random);
        this.lent.noted?.(`${s.name} is ${JSON.stringify(text)}`);
        return void page.memory.set(s.name, text);
      }
      case 'press':
        return void (await page.onElement(s.target, 'POST', 'click'));
      case 'click':
        return void (await act(clicking(await page.point(s.at), s.how, s.overMs)));
      case 'hover':
        return void (await act(hovering(await page.point(s.at), s.overMs)));
      case 'drag':
        return void (await act(dragging(await page.point(s.from), await page.point(s.to))));
      case 'drag by':
        return void (await act(dragging(await page.point(s.from), { origin: 'pointer', x: s.x, y: s.y })));
      case 'scroll to':
        return void (await page.script(script.scroll, [{ target: s.target }]));
      case 'scroll by':
        return void (await act(rolling(s.x, s.y)));
      case 'keys':
        return void (await act(pressingKeys(String(keysNamed(s.keys)))));
      case 'choose': {
        const option = { by: 'role', value: 'option', named: s.text, within: s.target };
        return void (await page.onElement({ locator: option }, 'POST', 'click'));
      }
      case 'clear':
        return void (await page.onElement(s.target, 'POST', 'clear'));
      case 'type':
        return this.type(s.target, page.text(s.text));
      case 'type secret':
        return void (await page.onElement(s.target, 'POST', 'value', { text: await this.secret(s.secret) }));
      case 'actions':
        return void (await act(JSON.parse(s.json) as Record<string, unknown>));
      case 'read':
        return void (await page.read(s.subject));
      case 'check':
        return this.checkThat(s.that, printStatement(s));
      case 'wait':
        return this.wait(s);
      case 'when': {
        const so = await this.conditions.isSo(s.that);
        return so ? this.statement({ ...s.then, line: s.line }) : undefined;
      }
      case 'pause':
        return new Promise((done) => setTimeout(done, s.ms));
      case 'script':
        return void (await page.script(s.script, s.arguments));
      case 'to window':
        return page.toWindow(s.number);
      case 'to newest window':
        return page.toNewestWindow();
      case 'to window at':
        return page.toWindowAt(page.text(s.address));
      case 'new window': {
        const { handle } = await wire.send<{ handle: string }>('POST', '/window/new', { type: s.what });
        return void (await wire.send('POST', '/window', { handle }));
      }
      case 'to frame':
        return this.toFrame(s);
      case 'close window':
        return void (await wire.send('DELETE', '/window'));
      case 'dialog':
        if (s.text !== undefined) await wire.send('POST', '/alert/text', { text: s.text });
        return void (await wire.send('POST', `/alert/${s.answer}`));
      case 'cookie':
        return void (await wire.send('POST', '/cookie', { cookie: { name: s.name, value: page.text(s.value) } }));
      case 'forget cookies':
        return void (await wire.send(
          'DELETE',
          s.name === undefined ? '/cookie' : `/cookie/${encodeURIComponent(s.name)}`,
        ));
      case 'screenshot':
        return void (await wire.send('GET', '/screenshot'));
    }
  }

  /** The first size is what the trial's window was opened with. */
  private async size(width: number, height: number): Promise<void> {
    if (this.sized) await this.wire.send('POST', '/window/rect', { width, height });
    this.sized = true;
  }

  private async open(url: string): Promise<void> {
    const why = this.permits.refusesToOpen(url);
    if (why !== undefined) throw new WireFault('invalid argument', why);
    await this.wire.send('POST', '/url', { url });
  }

  private get permits(): Permits {
    return this.lent.permits ?? usualPermits;
  }

  private async type(target: Target, text: string): Promise<void> {
    const instead = this.lent.given?.(text);
    const { permits } = this;
    if (instead === undefined && !permits.asksField)
      return void (await this.page.onElement(target, 'POST', 'value', { text }));
    const element = (await this.page.element(target))[elementKey]!;
    // A text that reads like a path goes into other fields as it is.
    const type = await this.wire.send('GET', `/element/${element}/property/type`, {}, true).catch(() => undefined);
    const why = permits.refusesToType(text, type === 'file');
    if (why !== undefined) throw new Error(why);
    await this.wire.send('POST', `/element/${element}/value`, {
      text: type === 'file' && instead !== undefined ? instead : text,
    });
  }

  private async secret(name: string): Promise<string> {
    if (this.permits.asksHost(name)) {
      const why = this.permits.refusesSecret(name, String(await this.page.script('return location.host')));
      if (why !== undefined) throw new Error(why);
    }
    const value = this.secrets[name];
    if (value === undefined) {
      const variable = `ISKEL_SECRET_${name.toUpperCase().replaceAll('-', '_')}`;
      throw new Error(`the secret “${name}” is not known here; set ${variable} for the server and play again`);
    }
    return value;
  }

  private async checkThat(that: Condition, label: string): Promise<void> {
    const { ok, expected, actual } = await this.conditions.judge(that);
    this.check(label, ok, expected, actual);
    if (ok) return;
    const same = that.kind === 'value' && that.comparison === 'is';
    throw new CheckFault(
      same ? `expected "${expected}" but got "${actual}"` : `"${actual}" does not fulfil: ${expected}`,
    );
  }

  private async wait(s: Extract<Line, { do: 'wait' }>): Promise<void> {
    const end = performance.now() + s.limitMs;
    this.conditions.begin();
    for (;;) {
      if (await this.conditions.met(s.until)) return;
      if (performance.now() >= end || this.stopped())
        throw new CheckFault(`timed out after ${s.limitMs} ms: ${printStatement(s)}`);
      await new Promise((done) => setTimeout(done, s.everyMs));
    }
  }

  private async toFrame(s: Extract<Line, { do: 'to frame' }>): Promise<void> {
    if (s.where === 'parent') await this.wire.send('POST', '/frame/parent');
    else if (s.where === 'top') await this.wire.send('POST', '/frame', { id: null });
    else if (s.target) {
      const element = await this.page.element(s.target);
      await this.wire.send('POST', '/frame', { id: { [elementKey]: element[elementKey] } });
    } else await this.wire.send('POST', '/frame', { id: (s.number ?? 1) - 1 });
  }
}
