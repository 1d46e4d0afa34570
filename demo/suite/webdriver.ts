/** The small WebDriver client the ferry suite is written with: plain HTTP, one call a command. */

const key = 'element-6066-11e4-a52e-4f735466cecf';

export class WebDriverError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message.startsWith(code) ? message : `${code}: ${message}`);
  }
}

export class Element {
  constructor(
    private readonly driver: WebDriver,
    readonly id: string,
  ) {}
  click(): Promise<void> {
    return this.driver.send('POST', `/element/${this.id}/click`);
  }
  type(text: string): Promise<void> {
    return this.driver.send('POST', `/element/${this.id}/value`, { text });
  }
  clear(): Promise<void> {
    return this.driver.send('POST', `/element/${this.id}/clear`);
  }
  text(): Promise<string> {
    return this.driver.send('GET', `/element/${this.id}/text`);
  }
  value(): Promise<string> {
    return this.driver.send('GET', `/element/${this.id}/property/value`);
  }
  attribute(name: string): Promise<string | null> {
    return this.driver.send('GET', `/element/${this.id}/attribute/${name}`);
  }
  displayed(): Promise<boolean> {
    return this.driver.send('GET', `/element/${this.id}/displayed`);
  }
}

export class WebDriver {
  private constructor(
    private readonly remote: string,
    readonly session: string,
    readonly capabilities: Record<string, unknown>,
  ) {}

  static async open(remote: string, capabilities: Record<string, unknown>): Promise<WebDriver> {
    const value = await call<{ sessionId: string; capabilities: Record<string, unknown> }>(
      'POST',
      `${remote}/session`,
      { capabilities: { alwaysMatch: capabilities } },
    );
    return new WebDriver(remote, value.sessionId, value.capabilities);
  }

  /** The id of the attempt that this session is recorded as. */
  get attempt(): string {
    return (this.capabilities['iskel:attempt'] as { id: string }).id;
  }

  send<T>(method: string, path: string, body: unknown = {}): Promise<T> {
    return call<T>(method, `${this.remote}/session/${this.session}${path}`, body);
  }
  open(address: string): Promise<void> {
    return this.send('POST', '/url', { url: address });
  }
  /** How long finds try, ms. */
  implicit(ms: number): Promise<void> {
    return this.send('POST', '/timeouts', { implicit: ms });
  }
  run<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.send('POST', '/execute/sync', { script, args });
  }
  /** A script that calls its last argument when it is done. */
  runAsync<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.send('POST', '/execute/async', { script, args });
  }
  title(): Promise<string> {
    return this.send('GET', '/title');
  }
  async find(css: string): Promise<Element> {
    const found = await this.send<Record<string, string>>('POST', '/element', { using: 'css selector', value: css });
    return new Element(this, found[key]!);
  }
  async findAll(css: string): Promise<Element[]> {
    const found = await this.send<Record<string, string>[]>('POST', '/elements', { using: 'css selector', value: css });
    return found.map((one) => new Element(this, one[key]!));
  }
  async link(text: string): Promise<Element> {
    const found = await this.send<Record<string, string>>('POST', '/element', { using: 'link text', value: text });
    return new Element(this, found[key]!);
  }
  windows(): Promise<string[]> {
    return this.send('GET', '/window/handles');
  }
  async toWindow(handle: string): Promise<void> {
    await this.send('POST', '/window', { handle });
  }
  async screenshot(): Promise<string> {
    return this.send('GET', '/screenshot');
  }
  async note(note: Record<string, unknown>): Promise<void> {
    await this.send('POST', '/iskel/note', note);
  }
  async outcome(status: string, message = '', stack = ''): Promise<void> {
    await this.send('POST', '/iskel/outcome', { status, message, stack });
  }
  async quit(): Promise<void> {
    await this.send('DELETE', '');
  }
}

async function call<T>(method: string, url: string, body: unknown): Promise<T> {
  const answer = await fetch(url, {
    method,
    ...(method === 'POST' ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
  });
  const { value } = (await answer.json()) as { value: T & { error?: string; message?: string } };
  if (!answer.ok) throw new WebDriverError(value.error ?? 'unknown error', (value.message ?? '').split('\n')[0]!);
  return value;
}

/** While a page is still coming, its elements are missing or go away under one's hands. */
const passing = new Set(['no such element', 'stale element reference']);

/** Asks until the answer pleases, every 60 ms, for 5 s; as most suites have such a helper. */
export async function until<T>(
  ask: () => Promise<T>,
  pleases: (value: T) => boolean,
  what: string,
  limitMs = 5000,
): Promise<T> {
  const end = Date.now() + limitMs;
  for (;;) {
    try {
      const value = await ask();
      if (pleases(value)) return value;
    } catch (error) {
      if (!(error instanceof WebDriverError) || !passing.has(error.code)) throw error;
    }
    if (Date.now() > end) throw new Error(`timed out after ${limitMs} ms waiting for ${what}`);
    await new Promise((done) => setTimeout(done, 60));
  }
}

/** The text of an element of the page that is on its way, once it fits. */
export const arrived = (driver: WebDriver, css: string, fits: RegExp = /\S/): Promise<string> =>
  until(
    async () => (await driver.find(css)).text(),
    (text) => fits.test(text),
    css,
  );
