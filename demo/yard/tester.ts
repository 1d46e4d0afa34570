import { fileURLToPath } from 'node:url';
import { until, WebDriverError, type WebDriver } from '../suite/webdriver.ts';
import { sleep } from './mechanism.ts';

const key = 'element-6066-11e4-a52e-4f735466cecf';

/** An element that a test of the yard holds. */
export class Held {
  constructor(
    private readonly driver: WebDriver,
    readonly id: string,
  ) {}
  click = (): Promise<void> => this.driver.send('POST', `/element/${this.id}/click`);
  clear = (): Promise<void> => this.driver.send('POST', `/element/${this.id}/clear`);
  type = (text: string): Promise<void> => this.driver.send('POST', `/element/${this.id}/value`, { text });
  text = (): Promise<string> => this.driver.send('GET', `/element/${this.id}/text`);
  value = (): Promise<string> => this.driver.send('GET', `/element/${this.id}/property/value`);
  shown = (): Promise<boolean> => this.driver.send('GET', `/element/${this.id}/displayed`);
  rect = (): Promise<{ x: number; y: number; width: number; height: number }> =>
    this.driver.send('GET', `/element/${this.id}/rect`);
}

/** What a test of the yard is given: a browser, the shop's address, and its own random numbers. */
export class Tester {
  constructor(
    readonly driver: WebDriver,
    readonly site: string,
    /** Whether this attempt is one that hurts; only for data which the test itself makes up. */
    readonly hurts: boolean,
    readonly draw: (low: number, high: number) => number,
  ) {}

  /** When this attempt parted from one that is not hurt, where it is the browser that parts and no site can know. */
  partedAt?: number;
  /** The step that comes next is the one it parts at. */
  parts(): void {
    if (this.hurts) this.partedAt ??= Date.now();
  }

  open = (path: string): Promise<void> => this.driver.open(this.site + path);
  sleep = sleep;

  async find(value: string, using = value.startsWith('/') ? 'xpath' : 'css selector'): Promise<Held> {
    const found = await this.driver.send<Record<string, string>>('POST', '/element', { using, value });
    return new Held(this.driver, found[key]!);
  }
  async all(value: string, using = value.startsWith('/') ? 'xpath' : 'css selector'): Promise<Held[]> {
    const found = await this.driver.send<Record<string, string>[]>('POST', '/elements', { using, value });
    return found.map((one) => new Held(this.driver, one[key]!));
  }
  async click(value: string, using?: string): Promise<void> {
    await (await this.find(value, using)).click();
  }
  async text(value: string): Promise<string> {
    return (await this.find(value)).text();
  }
  /** The text of an element once it fits. */
  until(value: string, fits: RegExp = /\S/, limitMs = 1500): Promise<string> {
    return until(
      () => this.text(value),
      (text) => fits.test(text),
      value,
      limitMs,
    );
  }
  /** Goes into a frame; everything is looked for in it from then on. */
  async enter(value: string): Promise<void> {
    await this.driver.send('POST', '/frame', { id: this.originOf(await this.find(value)) });
  }
  /** Gives a file field one of the yard’s made-up papers, which lie beside this file. */
  async upload(value: string, paper: string): Promise<void> {
    await (await this.find(value)).type(fileURLToPath(new URL(`./papers/${paper}`, import.meta.url)));
  }
  script<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.driver.send('POST', '/execute/sync', { script, args });
  }
  implicit(ms: number): Promise<void> {
    return this.driver.send('POST', '/timeouts', { implicit: ms });
  }
  /** A press by coordinates, as tests do that draw or drag. */
  async pressAt(x: number, y: number, origin: unknown = 'viewport', pauseMs = 0): Promise<void> {
    const pause = pauseMs ? [{ type: 'pause', duration: pauseMs }] : [];
    await this.driver.send('POST', '/actions', {
      actions: [
        {
          type: 'pointer',
          id: 'mouse',
          parameters: { pointerType: 'mouse' },
          actions: [
            { type: 'pointerMove', duration: 0, x: Math.round(x), y: Math.round(y), origin },
            ...pause,
            { type: 'pointerDown', button: 0 },
            { type: 'pointerUp', button: 0 },
          ],
        },
      ],
    });
  }
  originOf = (held: Held): unknown => ({ [key]: held.id });

  async check(label: string, actual: unknown, expected: unknown): Promise<void> {
    const ok = actual === expected;
    await this.driver.note({ kind: 'check', label, ok, expected: String(expected), actual: String(actual) });
    if (!ok) throw new Error(`${label}: expected "${String(expected)}" but got "${String(actual)}"`);
  }
  /** A step that may be left out: whatever goes wrong in it is swallowed. */
  async maybe(step: () => Promise<unknown>): Promise<void> {
    try {
      await step();
    } catch (error) {
      if (!(error instanceof WebDriverError)) throw error;
    }
  }
}
