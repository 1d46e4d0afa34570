import type { Argument, DrillLocator, Place, Subject, Target, Value } from '../../core/drill/drill.ts';
import { byScript } from '../../core/evidence/locator.ts';
import { wireLocator } from '../../core/drill/page-locators.ts';
import { amountOf, resolved } from '../../core/drill/values.ts';
import { elementKey } from '../recording/commands.ts';
import { middleOf, type Point } from './pointing.ts';
import { WireFault, type Wire } from './wire.ts';

/** A window that was opened shows its address within this, ms; it is looked for so often meanwhile. */
const windowComesMs = 2000;
const windowLookMs = 80;

export type Reference = Record<string, string>;

/** The page as a drill's lines speak of it: elements by name and locator, values remembered. */
export class DrillPage {
  readonly held = new Map<string, Reference>();
  readonly memory = new Map<string, unknown>();
  /** Windows of the session that do not belong to this trial. */
  readonly foreign = new Set<string>();

  /** @param opened contexts of windows in the order in which they were opened, as far as the browser told */
  constructor(
    private readonly wire: Wire,
    private readonly opened: () => readonly string[] = () => [],
  ) {}

  text(value: Value): string {
    return resolved(value, this.memory);
  }

  async find(locator: DrillLocator): Promise<Reference> {
    if (locator.by === byScript) return this.handedOut(locator);
    const root = locator.within ? `/element/${(await this.element(locator.within))[elementKey]}` : '';
    const asked = this.asked(locator);
    if (!locator.match || locator.match === 1) return this.wire.send<Reference>('POST', `${root}/element`, asked);
    const all = await this.findAll(root, asked);
    const found = all[locator.match - 1];
    if (!found)
      throw new WireFault(
        'no such element',
        `${locator.by} ${JSON.stringify(asked.value)} has ${all.length} matches, not ${locator.match}`,
      );
    return found;
  }

  private async handedOut({ value, match = 1 }: DrillLocator): Promise<Reference> {
    const script = this.text(value);
    const found = referencesIn(await this.script(script))[match - 1];
    if (!found) throw new WireFault('no such element', `the script handed out no element: ${script}`);
    return found;
  }

  private asked({ by, value, named, within }: DrillLocator): { using: string; value: string } {
    const plain = { by, value: this.text(value), ...(named === undefined ? {} : { named: this.text(named) }) };
    return wireLocator(plain, within !== undefined);
  }

  async element(target: Target): Promise<Reference> {
    return 'name' in target ? this.held.get(target.name)! : this.find(target.locator);
  }

  /** How many there are, without waiting for one. */
  async count(target: Target): Promise<number> {
    if ('name' in target) return 1;
    const { locator } = target;
    if (locator.by === byScript) return referencesIn(await this.script(this.text(locator.value))).length;
    const root = locator.within ? `/element/${(await this.element(locator.within))[elementKey]}` : '';
    return (await this.findAll(root, this.asked(locator))).length;
  }

  /** A driver has nothing to answer when a dialog opens meanwhile: asked once more it says so. */
  private async findAll(root: string, asked: { using: string; value: string }): Promise<Reference[]> {
    const ask = (): Promise<Reference[] | null> =>
      this.wire.send<Reference[] | null>('POST', `${root}/elements`, asked);
    return (await ask()) ?? (await ask()) ?? [];
  }

  async onElement<T = unknown>(
    target: Target,
    method: string,
    tail: string,
    body: Record<string, unknown> = {},
  ): Promise<T> {
    const send = async (): Promise<T> =>
      this.wire.send<T>(method, `/element/${(await this.element(target))[elementKey]}/${tail}`, body);
    if ('name' in target) return send();
    try {
      return await send();
    } catch (error) {
      // What is located in the statement itself is looked up right when it is used: drawn anew between the two commands
      // that takes, it is looked up once more. What is held may go stale, as a test's own does.
      if (error instanceof WireFault && error.code === 'stale element reference') return send();
      throw error;
    }
  }

  async read(subject: Subject): Promise<string> {
    const key = encodeURIComponent(subject.key ?? '');
    switch (subject.what) {
      case 'title':
        return this.wire.send<string>('GET', '/title');
      case 'address':
        return this.wire.send<string>('GET', '/url');
      case 'dialog':
        return this.wire.send<string>('GET', '/alert/text');
      case 'windows':
        return String((await this.windows()).length);
      case 'count':
        return String(await this.count(subject.of!));
      case 'answer': {
        const answer = await this.script(subject.script!, subject.arguments);
        return typeof answer === 'string' ? answer : (JSON.stringify(answer) ?? '');
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

  /** Where an element is in the window, CSS pixels. */
  placeOf(target: Target): Promise<{ x: number; y: number; width: number; height: number }> {
    return this.onElement(target, 'GET', 'rect');
  }

  async point(place: Place): Promise<Point> {
    if ('target' in place) return { ...middleOf(await this.element(place.target)), ...place.offset };
    return { origin: 'viewport', x: amountOf(place.x, this.memory), y: amountOf(place.y, this.memory) };
  }

  async script<T = unknown>(script: string, given: readonly Argument[] = []): Promise<T> {
    const args: unknown[] = [];
    for (const one of given)
      args.push(
        'target' in one
          ? { [elementKey]: (await this.element(one.target))[elementKey] }
          : 'number' in one
            ? one.number
            : this.text(one.value),
      );
    return this.wire.send<T>('POST', '/execute/sync', { script, args });
  }

  /** Windows of this trial, in the order in which they were opened. */
  async windows(): Promise<string[]> {
    const handles = await this.wire.send<string[]>('GET', '/window/handles');
    const own = handles.filter((handle) => !this.foreign.has(handle));
    // Drivers may tell windows in any order: those seen before keep their numbers.
    const known = this.seen.filter((handle) => own.includes(handle));
    const opened = this.opened();
    // One that nobody told of was there before the trial began to listen.
    const more = own.filter((handle) => !known.includes(handle)).sort((a, b) => opened.indexOf(a) - opened.indexOf(b));
    this.seen = [...known, ...more];
    return this.seen;
  }
  private seen: string[] = [];

  async toWindow(number: number): Promise<void> {
    const own = await this.windows();
    const handle = own[number - 1];
    if (!handle) throw new WireFault('no such window', `there are ${own.length} windows, not ${number}`);
    await this.wire.send('POST', '/window', { handle });
  }

  async toNewestWindow(): Promise<void> {
    const own = await this.windows();
    await this.wire.send('POST', '/window', { handle: own.at(-1) });
  }

  /** Looks into one window after the other until an address holds the text: it may be on its way there. */
  async toWindowAt(part: string): Promise<void> {
    const end = performance.now() + windowComesMs;
    do {
      for (const handle of await this.windows()) {
        await this.wire.send('POST', '/window', { handle });
        if ((await this.wire.send<string>('GET', '/url')).includes(part)) return;
      }
      await new Promise((done) => setTimeout(done, windowLookMs));
    } while (performance.now() < end);
    throw new WireFault('no such window', `no window is at an address with “${part}”`);
  }
}

/** The elements in what a script answered: one, or a list of them. */
const referencesIn = (answer: unknown): Reference[] =>
  (Array.isArray(answer) ? (answer as unknown[]) : [answer]).filter(
    (one): one is Reference => typeof (one as Reference | null)?.[elementKey] === 'string',
  );
