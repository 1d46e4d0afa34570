import type { ChildProcess } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { asError, trouble } from '../../core/background.ts';
import { Bidi } from '../bidi.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import { BidiShare } from '../bidi-share.ts';
import type { NewSession, RemoteEnd, SocketSide } from '../remote-end.ts';
import { readCommand } from '../recording/commands.ts';
import { parseJson } from '../recording/command-body.ts';
import type { Answer } from '../recording/wire-answer.ts';
import { ClassicError, classicError } from './classic-error.ts';
import { perform } from './commands.ts';
import { classicCapabilities, readCapabilities } from './new-session.ts';
import { readTimeouts } from './pages.ts';
import { ClassicSession } from './session.ts';
import { SharedSocket } from './shared-socket.ts';

/**
 * What a classic session has to know of its pages. Events of scripts are among them because a Firefox that was asked
 * for events of pages first tells of no realm that comes later.
 */
const events = [
  'script.realmCreated',
  'script.realmDestroyed',
  'script.message',
  'browsingContext.contextCreated',
  'browsingContext.contextDestroyed',
  'browsingContext.navigationStarted',
  'browsingContext.navigationCommitted',
  'browsingContext.navigationFailed',
  'browsingContext.fragmentNavigated',
  'browsingContext.domContentLoaded',
  'browsingContext.load',
  'browsingContext.userPromptOpened',
  'browsingContext.userPromptClosed',
];

/** Firefox's own calls out fail noisily on closed networks, and its first pages and updates are in the way. */
const preferences: Readonly<Record<string, string | number | boolean>> = {
  'app.normandy.enabled': false,
  'app.update.disabledForTesting': true,
  'app.update.auto': false,
  'browser.aboutConfig.showWarning': false,
  'browser.cache.check_doc_frequency': 3,
  'browser.contentblocking.introCount': 99,
  'browser.newtabpage.enabled': false,
  'browser.safebrowsing.malware.enabled': false,
  'browser.safebrowsing.phishing.enabled': false,
  'browser.safebrowsing.downloads.remote.enabled': false,
  'browser.search.update': false,
  'browser.sessionstore.resume_from_crash': false,
  'browser.shell.checkDefaultBrowser': false,
  'browser.startup.homepage_override.mstone': 'ignore',
  'browser.startup.page': 0,
  'browser.tabs.warnOnClose': false,
  'browser.uitour.enabled': false,
  'datareporting.healthreport.uploadEnabled': false,
  'datareporting.policy.dataSubmissionEnabled': false,
  'dom.disable_open_during_load': false,
  'extensions.getAddons.cache.enabled': false,
  'extensions.systemAddon.update.enabled': false,
  'extensions.update.enabled': false,
  'focusmanager.testmode': true,
  'geo.provider.testing': true,
  'media.gmp-manager.updateEnabled': false,
  'network.captive-portal-service.enabled': false,
  'network.connectivity-service.enabled': false,
  'network.prefetch-next': false,
  'network.http.speculative-parallel-limit': 0,
  'security.certerrors.mitm.priming.enabled': false,
  'services.settings.server': 'data:,#none',
  'signon.rememberSignons': false,
  'startup.homepage_welcome_url': 'about:blank',
  'toolkit.cosmeticAnimations.enabled': false,
  'toolkit.startup.max_resumed_crashes': -1,
  'toolkit.telemetry.reportingpolicy.firstRun': false,
  'toolkit.telemetry.server': 'data:,none',
};

/** The folder a Firefox keeps its profile in, with what makes it quiet. */
export function firefoxProfile(folder: string): string {
  const profile = join(folder, 'profile');
  mkdirSync(profile, { recursive: true, mode: 0o700 });
  const lines = Object.entries(preferences).map(
    ([name, value]) => `user_pref(${JSON.stringify(name)}, ${JSON.stringify(value)});`,
  );
  writeFileSync(join(profile, 'user.js'), `${lines.join('\n')}\n`, { mode: 0o600 });
  return profile;
}

const headers = { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-cache' };
const answer = (status: number, value: unknown): Answer => ({
  status,
  headers,
  body: Buffer.from(JSON.stringify({ value })),
});

const wrong = (error: unknown): Answer => {
  const { status, code, message, data } = classicError(error);
  return answer(status, { error: code, message, stacktrace: '', ...(data ? { data } : {}) });
};

/** How long a browser that was told to end its session may take, ms. */
const endLimitMs = 3000;

/** A Firefox by its own BiDi, with a classic front: any client of the classic protocol drives it unchanged. */
export class FirefoxEnd implements RemoteEnd {
  private bidiSocket: Bidi | undefined;
  private readonly share = new BidiShare(() => {
    if (!this.bidiSocket) throw new Error('the browser is gone');
    return this.bidiSocket;
  });
  private session: { id: string; classic: ClassicSession; link: BidiLink } | undefined;
  /** One command at a time, as the specification has it. */
  private queue: Promise<unknown> = Promise.resolve();
  readonly screen = undefined;
  /** Its connection is closed: what it was asked last has no answer. */
  private gone = false;

  constructor(
    private readonly process: ChildProcess,
    private readonly version: string,
    private readonly listeners: (() => void)[],
    private readonly end: () => Promise<void>,
  ) {}

  /** Connects to the browser. @param address of its BiDi, `ws://127.0.0.1:PORT` */
  async connect(address: string): Promise<void> {
    this.bidiSocket = await Bidi.connect(`${address}/session`, this.share.hear, () => {
      this.gone = true;
      this.share.closed();
    });
    this.held = await this.newSession({});
  }

  /**
   * The one session that the browser gives is taken at once, long before a client asks: whoever else finds its port gets
   * none.
   */
  private held: NewSession | undefined;

  private newSession(asked: Record<string, unknown>): Promise<NewSession> {
    return this.bidiSocket!.send<NewSession>('session.new', {
      capabilities: { alwaysMatch: { ...asked, unhandledPromptBehavior: { default: 'ignore' } } },
    });
  }

  /** The session that is held, where it is as it is asked for; else another in its place. */
  private async sessionWith(asked: Record<string, unknown>): Promise<NewSession> {
    const { held } = this;
    this.held = undefined;
    if (held && Object.keys(asked).length === 0) return held;
    if (held) await this.bidiSocket!.send('session.end', {});
    return this.newSession(asked);
  }

  get alive(): boolean {
    return !this.gone && this.process.exitCode === null && this.process.signalCode === null;
  }

  onExit(listener: () => void): void {
    this.listeners.push(listener);
  }

  async close(): Promise<void> {
    this.bidiSocket?.close();
    await this.end();
  }

  bidi(_session: NewSession, onEvent: BidiListener, onClose: () => void): Promise<BidiLink> {
    return Promise.resolve(this.share.link(onEvent, onClose));
  }

  socket(): SocketSide {
    return new SharedSocket(this.share);
  }

  async send(method: string, path: string, _headers: unknown, body: Buffer, limitMs?: number): Promise<Answer> {
    if (!this.alive) throw new Error('the browser is no longer running');
    const work = this.queue.then(() => this.answerTo(method, path, body));
    this.queue = work.catch(() => undefined);
    if (limitMs === undefined) return work;
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<never>((_, fail) => {
      timer = setTimeout(
        () => fail(new Error(`the browser did not answer ${method} ${path} for ${limitMs / 1000} s`)),
        limitMs,
      );
    });
    return Promise.race([work, late]).finally(() => clearTimeout(timer));
  }

  private async answerTo(method: string, path: string, body: Buffer): Promise<Answer> {
    try {
      if (path === '/status') return answer(200, { ready: this.session === undefined, message: '' });
      const asked = method === 'POST' ? parseJson(body) : {};
      if (!asked) throw new ClassicError('invalid argument', 'the body of this command is no JSON object');
      if (path === '/session') return answer(200, await this.begin(asked));
      const [, , id, ...rest] = path.split('?', 1)[0]!.split('/');
      const { session } = this;
      if (!session || id !== session.id) throw new ClassicError('invalid session id', 'there is no such session');
      const tail = rest.map((part) => `/${part}`).join('');
      if (method === 'DELETE' && tail === '') {
        await this.finish();
        return answer(200, null);
      }
      const { command, element, key } = readCommand(method, tail);
      if (command.name === 'another command') throw unknownCommand(method, tail);
      return answer(
        200,
        await perform(session.classic, command.name, { body: asked, element: element ?? '', key: key ?? '' }),
      );
    } catch (error) {
      if (!this.alive) throw asError(error);
      return wrong(error);
    }
  }

  private async begin(body: Record<string, unknown>): Promise<NewSession> {
    if (this.session) throw new ClassicError('session not created', 'this browser has a session already');
    const wanted = readCapabilities(body, this.version);
    const link = this.share.link(
      (method, params) => this.session?.classic.hear(method, params),
      () => undefined,
    );
    const told = await this.sessionWith({
      ...(wanted.acceptInsecureCerts ? { acceptInsecureCerts: true } : {}),
      ...(wanted.proxy === undefined ? {} : { proxy: wanted.proxy }),
    });
    const { contexts } = await link.send<{ contexts: { context: string }[] }>('browsingContext.getTree', {});
    const classic = new ClassicSession(link, contexts[0]?.context ?? '');
    this.session = { id: told.sessionId, classic, link };
    if (wanted.timeouts) readTimeouts(classic, wanted.timeouts);
    classic.pageLoadStrategy = wanted.pageLoadStrategy ?? 'normal';
    classic.promptBehavior = wanted.promptBehavior ?? 'dismiss and notify';
    await link.send('session.subscribe', { events });
    return { sessionId: told.sessionId, capabilities: classicCapabilities(told.capabilities, classic, wanted) };
  }

  private async finish(): Promise<void> {
    const { session } = this;
    this.session = undefined;
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise((done) => (timer = setTimeout(done, endLimitMs)));
    const ended = session?.link
      .send('session.end', {})
      .catch((error: unknown) => trouble('ending a Firefox session', asError(error)));
    await Promise.race([ended, late]);
    clearTimeout(timer);
  }
}

function unknownCommand(method: string, tail: string): ClassicError {
  const others = ['GET', 'POST', 'DELETE'].filter(
    (other) => other !== method && readCommand(other, tail).command.name !== 'another command',
  );
  return others.length
    ? new ClassicError('unknown method', `${tail} takes ${others.join(' and ')}, not ${method}`)
    : new ClassicError('unknown command', `${method} ${tail} is no command that is known here`);
}
