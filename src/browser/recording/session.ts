import type { Environment } from '../../core/evidence/attempt.ts';
import type { Driver } from '../driver-process.ts';
import { readCommand, type CommandCall } from './commands.ts';
import { fieldHeld } from './field-look.ts';
import { background, guarded } from '../../core/background.ts';
import { parseJson } from './command-body.ts';
import { ask, type Answer } from './forward.ts';
import { clock } from './clock.ts';
import { AttemptRecorder } from './recorder.ts';
import { textOf } from './steps.ts';
import { ScreenCamera } from './screen-camera.ts';
import { SessionWatch } from './session-watch.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from './sink.ts';
import type { Watch } from './watch.ts';

type Json = Record<string, unknown>;

/** What a driver says of a session it has begun. */
export interface NewSession {
  sessionId: string;
  capabilities: Json;
}

export function environmentOf(
  capabilities: Json,
  attempt: AttemptRequest,
  size?: { width: number; height: number },
): Environment {
  return {
    browser: engineOf(String(capabilities.browserName ?? 'browser')),
    version: String(capabilities.browserVersion ?? ''),
    platform: String(capabilities.platformName ?? ''),
    ...size,
    ...(attempt.labels?.host ? { place: attempt.labels.host } : {}),
  };
}

/** A browser is named by its engine: what one of them does, all of the engine do. */
const engineOf = (browserName: string): string =>
  browserName.replace(/^chrome(-headless-shell)?$/, 'chromium').replace(/^MiniBrowser$/, 'webkit');

/** Steps after which the page usually looks different. */
const acting: ReadonlySet<string> = new Set([
  'press',
  'type',
  'clear',
  'keys',
  'navigate',
  'script',
  'dialog',
  'frame',
  'window',
]);

/** A page that does not answer in this time will not let itself be looked at, ms. */
const longestLookMs = 500;
/** How long the notes on an answered command may wait for a better moment. */
const putOffMs = 8;

/** One recorded WebDriver session: its driver, its watch, its recorder. */
export class RecordedSession {
  readonly id: string;
  readonly recorder: AttemptRecorder;
  readonly webSocketUrl: string;
  /** Dialogs are answered silently: a command that met one is sent once more. */
  promptsAgain = false;
  private watch: Watch | undefined;
  private ending: Promise<void> | undefined;
  private lastHeard = clock();
  private readonly handles: string[] = [];

  private constructor(
    readonly driver: Driver,
    session: NewSession,
    attempt: AttemptRequest,
    sink: EvidenceSink,
    startedAt: number,
    size?: { width: number; height: number },
  ) {
    this.id = session.sessionId;
    this.webSocketUrl = String(session.capabilities.webSocketUrl);
    this.recorder = new AttemptRecorder(sink, attempt, environmentOf(session.capabilities, attempt, size), startedAt);
  }

  static async start(
    driver: Driver,
    session: NewSession,
    attempt: AttemptRequest,
    sink: EvidenceSink,
    startedAt: number,
    size?: { width: number; height: number },
  ): Promise<RecordedSession> {
    const recorded = new RecordedSession(driver, session, attempt, sink, startedAt, size);
    driver.onExit(() => recorded.endLater('the driver process ended before the session did'));
    try {
      recorded.watch = session.capabilities.webSocketUrl
        ? await recorded.watchBySocket(session, attempt)
        : await recorded.watchByScreen(session, attempt);
      if (!session.capabilities.webSocketUrl)
        recorded.missing(
          recorded.watch ? 'Only commands and pictures are recorded' : 'Only commands are recorded',
          'this browser tells nothing else of itself',
        );
    } catch (error) {
      recorded.missing('Only commands are recorded', (error as Error).message);
    }
    return recorded;
  }

  private watchBySocket(session: NewSession, attempt: AttemptRequest): Promise<Watch> {
    const options = session.capabilities['goog:chromeOptions'] as { debuggerAddress?: string } | undefined;
    return SessionWatch.start({
      webSocketUrl: this.webSocketUrl,
      debuggerAddress: options?.debuggerAddress,
      recorder: this.recorder,
      detail: attempt.detail ?? 'standard',
      onClose: () => setTimeout(() => this.endLater('the browser went away before the session was ended'), 150),
    });
  }

  /** Where the page lies in its window is asked once, while the session is new and nothing can be disturbed. */
  private async watchByScreen(session: NewSession, attempt: AttemptRequest): Promise<Watch | undefined> {
    const { screen } = this.driver;
    const detail = attempt.detail ?? 'standard';
    if (!screen || detail === 'light') return undefined;
    const script = 'return [outerHeight - innerHeight, innerWidth, innerHeight]';
    const [bar, width, height] = await ask<[number, number, number]>(
      this.driver,
      `/session/${session.sessionId}/execute/sync`,
      { script, args: [] },
    );
    this.camera = new ScreenCamera(screen, { bar, width, height }, detail, this.recorder);
    return this.camera;
  }
  private camera: ScreenCamera | undefined;

  /** The test must run even where it cannot be watched; the bench says what is missing. */
  private missing(what: string, why: string): void {
    this.recorder.add({
      lane: 'note',
      kind: 'recorder',
      at: clock(),
      clock: 'recorder',
      data: { label: `${what}: ${why}`, ok: false },
    });
  }

  /** Milliseconds since the client was last heard of; 0 while a command is under way. */
  silentMs(): number {
    return this.underWay > 0 ? 0 : clock() - this.lastHeard;
  }
  private underWay = 0;
  private failed = false;

  /** The client said something in another way than by a command. */
  heard(): void {
    this.lastHeard = clock();
  }

  /** What concerns this session and not its client: a failure of it is told, and costs the client nothing. */
  private aside<T>(what: string, work: () => T): T | undefined {
    return guarded(what, work, this.recorder.id);
  }

  private endLater(why: string): void {
    background('ending a session', this.end(why), this.recorder.id);
  }

  /** A command is about to be forwarded. */
  begin(method?: string, path?: string, body?: Buffer): void {
    this.underWay++;
    const address = method === 'POST' && path === '/url' && body ? parseJson(body)?.url : undefined;
    if (typeof address === 'string') this.aside('noting an address', () => this.recorder.opens(address));
  }

  /** Puts work off until the client waits for the driver again, or a moment passes without a command. */
  later(work: () => void): void {
    this.put.push(work);
    this.putTimer ??= setTimeout(() => this.catchUp(), putOffMs);
  }

  /** Does what was put off. */
  catchUp(): void {
    clearTimeout(this.putTimer);
    this.putTimer = undefined;
    for (const work of this.put.splice(0)) this.aside('noting a command down', work);
  }
  private readonly put: (() => void)[] = [];
  private putTimer: NodeJS.Timeout | undefined;

  /** A find was forwarded: its locator is watched from here on, while the driver looks for it. */
  asks(method: string, path: string, body: Buffer): void {
    this.aside('watching a locator', () => {
      const { command, element } = readCommand(method, path);
      if (command.action !== 'find') return;
      const locator = this.recorder.locatorAsked(parseJson(body) ?? {}, element);
      if (locator) this.watch?.watch(locator);
    });
  }

  /**
   * A browser without a socket was told to type: before its next command it is asked what the field holds, once,
   * so that a password is known for one and what did not arrive is seen.
   */
  looksAfter(method: string, path: string, answer: Answer, at: number): void {
    if (this.watch !== this.camera || !this.camera || answer.status !== 200 || method !== 'POST') return;
    const { command, element } = readCommand(method, path);
    if (command.action !== 'type' || !element) return;
    const look = fieldHeld(this.driver, this.id, element)
      .then((held) => held && this.recorder.fieldHeld(element, held, at))
      .catch(() => undefined);
    this.looking = Promise.race([look, new Promise<void>((done) => setTimeout(done, longestLookMs).unref())]);
  }
  /** Settled when the driver is free for the test’s next command. */
  looking: Promise<unknown> | undefined;

  /** Takes note of a command after it was answered; never on the client's time. */
  took(method: string, path: string, body: Buffer, answer: Answer | undefined, at: number, until: number): void {
    this.underWay--;
    this.lastHeard = clock();
    const call = readCommand(method, path);
    if (call.command.name === 'delete session') return;
    if (call.command.action === 'picture' && answer?.status === 200) return this.tookPicture(call, answer, at, until);
    const asked = parseJson(body) ?? {};
    const answered = answer
      ? parseJson(answer.body)
      : { value: { error: 'unknown error', message: 'the driver did not answer' } };
    const step = this.aside('reading a command', () =>
      this.recorder.command(call, asked, answered, at, until, this.extra(call, asked, answered)),
    );
    if (!step) return this.recorder.unreadable(call, answered, at, until);
    if (step.data.error || acting.has(step.data.action))
      this.watch?.happened(Boolean(step.data.error) && step.data.action !== 'find');
    // A window nobody sized has the size it opens pages with.
    if (step.data.action === 'open' && this.camera) {
      this.tellSize(this.camera.windowSize);
      this.camera.happened(false);
    }
    const rect = answered?.value as { width?: number; height?: number } | null | undefined;
    if (step.data.command === 'set window rect' && rect?.width && rect.height) {
      this.tellSize({ width: rect.width, height: rect.height });
      this.camera?.sized(rect.width, rect.height);
    }
    if (step.data.command === 'switch to window' && !step.data.error) {
      this.recorder.add({
        lane: 'window',
        kind: 'looked-at',
        at: until,
        clock: 'recorder',
        data: { context: textOf(step.data.handle) },
      });
    }
  }

  /** The first size is the attempt's; one that a test goes on to try is the test's own business. */
  private tellSize({ width, height }: { width: number; height: number }): void {
    if (this.sizeTold) return;
    this.sizeTold = true;
    this.recorder.sized(width, height);
  }
  private sizeTold = false;

  /** Windows are numbered in the order in which the test met them, so that a drill can name them. */
  private extra(call: CommandCall, asked: Json, answered: Json | undefined): Json {
    const value = answered?.value;
    const met =
      call.command.name === 'get window handles' && Array.isArray(value)
        ? (value as string[])
        : call.command.name === 'get window handle'
          ? [textOf(value)]
          : [];
    for (const handle of met) if (!this.handles.includes(handle)) this.handles.push(handle);
    if (call.command.name !== 'switch to window') return {};
    const number = this.handles.indexOf(textOf(asked.handle ?? asked.name));
    return number >= 0 ? { number: number + 1 } : {};
  }

  private tookPicture(call: CommandCall, answer: Answer, at: number, until: number): void {
    this.recorder.command(call, {}, undefined, at, until);
    if (call.command.name === 'print page') return;
    const data = parseJson(answer.body)?.value;
    if (typeof data !== 'string') return;
    const part = call.command.name !== 'take screenshot';
    const kept = this.recorder.screenshot(Buffer.from(data, 'base64'), until, part);
    background('keeping a screenshot', kept, this.recorder.id);
  }

  note(body: Json): void {
    const kind = body.kind === 'check' || body.kind === 'step' ? body.kind : 'note';
    const text = (value: unknown): string | undefined =>
      value === undefined || value === null ? undefined : this.recorder.shortened(textOf(value), 4000);
    this.lastHeard = clock();
    this.recorder.add({
      lane: 'note',
      kind,
      at: clock(),
      clock: 'recorder',
      data: {
        label: text(body.label) ?? '',
        ...(typeof body.ok === 'boolean' ? { ok: body.ok } : {}),
        ...(body.expected === undefined ? {} : { expected: text(body.expected) }),
        ...(body.actual === undefined ? {} : { actual: text(body.actual) }),
        ...(text(body.source) ? { source: text(body.source) } : {}),
      },
    });
  }

  outcome(told: ToldOutcome): void {
    this.lastHeard = clock();
    this.failed = told.status === 'failed' || told.status === 'errored';
    this.recorder.outcome(told);
  }

  /**
   * Before the session is deleted: the documents hand over what they hold back. A failed attempt
   * waits a little for the answers still under way, since they often tell why it failed.
   */
  async lastLook(): Promise<void> {
    if (this.failed) await this.watch?.linger();
    await this.watch?.flush();
  }

  /** Ends recording, driver and browser, once. The browser goes whatever became of the recording. */
  end(interrupted?: string): Promise<void> {
    this.ending ??= (async () => {
      try {
        this.catchUp();
        await this.recorder.end(interrupted);
        this.watch?.close();
      } finally {
        await this.driver.close();
      }
    })();
    return this.ending;
  }

  get over(): boolean {
    return this.ending !== undefined;
  }
}
