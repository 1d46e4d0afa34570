import { background, guarded } from '../core/background.ts';
import type { Abilities } from './abilities.ts';
import { HttpEnd } from './http-end.ts';
import type { Place, PlaceHealth } from './place.ts';
import { parseJson } from './recording/command-body.ts';
import { engineNamed } from './recording/engine-asked.ts';
import { remoteLaunch, type Launch } from './recording/launch-options.ts';
import type { Answer } from './recording/wire-answer.ts';
import type { RemoteEnd } from './remote-end.ts';

/** A remote WebDriver endpoint, as the local settings name it. */
export interface RemoteSettings {
  name: string;
  address: string;
  /** Sent as the header of that name, with everything. */
  authorization?: string;
  /** The browser name its sessions are asked for with. */
  browser: string;
  /** Capabilities added to those of each session. */
  capabilities: Record<string, unknown>;
  labels: Record<string, string>;
  /** Sessions at once. */
  sessions: number;
  /** Whether it hands out BiDi sockets. */
  socket: boolean;
}

/** How often an endpoint is looked at, and how long it may take to answer, ms. */
const lookEveryMs = 15_000;
const lookLimitMs = 4000;
const endLimitMs = 5000;

/** One session of a remote endpoint. */
class RemoteSession extends HttpEnd implements RemoteEnd {
  readonly screen = undefined;
  alive = true;
  private session: string | undefined;
  private readonly listeners: (() => void)[] = [];

  constructor(
    address: string,
    authorization: string | undefined,
    private readonly released: () => void,
  ) {
    super(address, authorization);
  }

  override async send(...[method, path, headers, body, limitMs]: Parameters<HttpEnd['send']>): Promise<Answer> {
    // A client's own key to us is none of theirs.
    const { authorization: _own, cookie: _cookie, host: _host, ...passed } = headers;
    try {
      const answer = await super.send(method, path, passed, body, limitMs);
      if (method === 'POST' && path === '/session' && answer.status === 200) {
        const value = parseJson(answer.body)?.value as { sessionId?: unknown } | undefined;
        if (typeof value?.sessionId === 'string') this.session = value.sessionId;
      } else if (method === 'DELETE' && path === `/session/${this.session}`) this.session = undefined;
      return answer;
    } catch (error) {
      if (
        /ECONNREFUSED|ECONNRESET|EHOSTUNREACH|ENETUNREACH|ENOTFOUND/.test((error as NodeJS.ErrnoException).code ?? '')
      )
        this.gone();
      throw error;
    }
  }

  private gone(): void {
    if (!this.alive) return;
    this.alive = false;
    for (const listener of this.listeners) guarded('hearing that a remote endpoint is gone', listener);
  }

  onExit(listener: () => void): void {
    this.listeners.push(listener);
  }

  /** Its session does not outlive us: nobody else knows of it. */
  async close(): Promise<void> {
    const { session } = this;
    this.session = undefined;
    if (session !== undefined && this.alive)
      await super.send('DELETE', `/session/${session}`, {}, Buffer.alloc(0), endLimitMs).catch(() => undefined);
    this.released();
    this.destroy();
  }
}

/** A name and password in an address go with each request as the header they stand for, and are shown nowhere. */
function wayTo({ address, authorization }: RemoteSettings): {
  address: string;
  shown: string;
  authorization: string | undefined;
} {
  const url = new URL(address);
  const { username, password, origin } = url;
  url.username = url.password = '';
  const basic = Buffer.from(`${decodeURIComponent(username)}:${decodeURIComponent(password)}`).toString('base64');
  return {
    address: url.href,
    shown: origin,
    authorization: authorization ?? (username ? `Basic ${basic}` : undefined),
  };
}

/** A remote endpoint: its health is looked at from time to time, and its sessions are counted. */
export class RemotePlace implements Place {
  readonly remote = true;
  taken = 0;
  readonly abilities: Abilities;
  readonly launch: Launch;
  version = '';
  private found: PlaceHealth = { ok: false, message: 'not looked at yet' };
  private readonly timer: NodeJS.Timeout;
  private readonly asks: HttpEnd;
  /** For questions that belong to no session: one for all of them. */
  private spare: RemoteSession | undefined;

  /** How it is reached; of what is shown, nothing holds its password. */
  private readonly way: { address: string; shown: string; authorization: string | undefined };

  constructor(readonly settings: RemoteSettings) {
    const { socket, capabilities, browser } = settings;
    const { address, authorization } = (this.way = wayTo(settings));
    this.abilities = {
      socket,
      debugging: socket && this.isChromium,
      bodies: socket,
      // A driver elsewhere carries out nothing while a command waits; a browser that speaks BiDi itself does.
      holds: socket && !this.isChromium,
      contexts: socket,
      screen: false,
      local: false,
    };
    this.launch = remoteLaunch(socket, { browserName: browser, ...capabilities });
    this.asks = new HttpEnd(address, authorization);
    this.timer = setInterval(() => this.lookAside(), lookEveryMs).unref();
    this.lookAside();
  }

  private get isChromium(): boolean {
    return this.engine === 'chromium';
  }

  get name(): string {
    return this.settings.name;
  }
  get engine(): string {
    return engineNamed(this.settings.browser) ?? this.settings.browser;
  }
  get labels(): Record<string, string> {
    return this.settings.labels;
  }
  get most(): number {
    return this.settings.sessions;
  }

  answersTo(browserName: string): boolean {
    return browserName === this.settings.browser || engineNamed(browserName) === this.engine;
  }

  private lookAside(): void {
    background('looking at a remote endpoint', this.look(), this.name);
  }

  /** Never rejects: what is wrong is what is found. */
  async look(): Promise<PlaceHealth> {
    const checkedAt = Date.now();
    try {
      const answer = await this.asks.send('GET', '/status', {}, Buffer.alloc(0), lookLimitMs);
      const value = parseJson(answer.body)?.value as { message?: unknown; build?: { version?: unknown } } | undefined;
      if (answer.status === 401 || answer.status === 403)
        this.found = {
          ok: false,
          message: `it refuses us (${answer.status}); mend “authorization” of ${this.name} in the settings file`,
          checkedAt,
        };
      else if (answer.status !== 200 || !value)
        this.found = {
          ok: false,
          message: `it answers ${answer.status} and no status; “address” of ${this.name} in the settings file may lack its path`,
          checkedAt,
        };
      else {
        if (typeof value.build?.version === 'string') this.version = value.build.version.split(' ')[0]!.slice(0, 40);
        this.found = { ok: true, message: 'it answers', checkedAt };
      }
    } catch (error) {
      const code = (error as NodeJS.ErrnoException).code ?? (error as Error).message;
      this.found = {
        ok: false,
        message: `it cannot be reached at ${this.way.shown} (${code}); start it, or mend “address” of ${this.name} in the settings file`,
        checkedAt,
      };
    }
    return this.found;
  }

  health(): PlaceHealth {
    return this.found;
  }

  async take(): Promise<RemoteEnd> {
    if (this.taken >= this.most)
      throw new Error(`${this.name} has ${this.most} sessions already, as many as the settings allow`);
    if (!(await this.look()).ok) throw new Error(`${this.name}: ${this.found.message}`);
    this.taken++;
    let released = false;
    return new RemoteSession(this.way.address, this.way.authorization, () => {
      if (!released) this.taken--;
      released = true;
    });
  }

  ready(): Promise<RemoteEnd> {
    this.spare ??= new RemoteSession(this.way.address, this.way.authorization, () => undefined);
    return Promise.resolve(this.spare);
  }

  close(): Promise<void> {
    clearInterval(this.timer);
    this.asks.destroy();
    this.spare?.destroy();
    return Promise.resolve();
  }
}
