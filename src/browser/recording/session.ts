import type { Environment } from '../../core/evidence/attempt.ts';
import type { Circumstances } from '../../core/evidence/event.ts';
import { circumstancesScript } from '../observer/source.ts';
import type { CommandNotes } from '../player/wire.ts';
import { portDoor, type DebuggingDoor } from '../debugging-door.ts';
import type { Place } from '../place.ts';
import type { NewSession, RemoteEnd, SocketSide } from '../remote-end.ts';
import { readCommand } from './commands.ts';
import { fieldHeld, secretsHeld } from './field-look.ts';
import { background, guarded } from '../../core/background.ts';
import { ask } from './forward.ts';
import type { Answer } from './wire-answer.ts';
import { clock } from './clock.ts';
import { CommandRecorder } from './command-recorder.ts';
import { AttemptRecorder } from './recorder.ts';
import { textOf } from './steps.ts';
import { ScreenCamera } from './screen-camera.ts';
import { SessionWatch } from './session-watch.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from './sink.ts';
import type { Watch } from './watch.ts';
import type { FrameName } from './window-track.ts';

type Json = Record<string, unknown>;

export function environmentOf(
  capabilities: Json,
  attempt: AttemptRequest,
  size?: { width: number; height: number },
  place?: Place,
): Environment {
  const where = attempt.labels?.host ?? (place?.remote ? place.name : undefined);
  return {
    browser: engineOf(String(capabilities.browserName ?? 'browser')),
    version: String(capabilities.browserVersion ?? ''),
    platform: String(capabilities.platformName ?? ''),
    ...size,
    ...(where ? { place: where } : {}),
  };
}

/** Where pictures come straight from the browser, on this machine. */
export function debuggingDoor({ abilities }: Place, { capabilities }: NewSession): DebuggingDoor | undefined {
  const options = capabilities['goog:chromeOptions'] as { debuggerAddress?: string } | undefined;
  const address = abilities.debugging && abilities.local ? options?.debuggerAddress : undefined;
  return address === undefined ? undefined : portDoor(address);
}

/** A browser is named by its engine: what one of them does, all of the engine do. */
const engineOf = (browserName: string): string =>
  browserName.replace(/^chrome(-headless-shell)?$/, 'chromium').replace(/^MiniBrowser$/, 'webkit');

/** A page that does not answer in this time will not let itself be looked at, ms. */
const longestLookMs = 500;
/** A test that sends nothing for this long is silent: what could wait may be done, ms. */
const idleMs = 150;
/** How long the notes on an answered command may wait for a better moment. */
const putOffMs = 8;

/** Whether a command may have set a secret field, or reads one. @param key the property or attribute that is read */
const mayHoldSecrets = (action: string, key: string | undefined): boolean =>
  action === 'script' || action === 'keys' || (action === 'read' && key === 'value');

/** One recorded WebDriver session: its driver, its watch, its recorder. */
export class RecordedSession {
  readonly id: string;
  readonly recorder: AttemptRecorder;
  readonly commands: CommandRecorder;
  /** Dialogs are answered silently: a command that met one is sent once more. */
  promptsAgain = false;
  private watch: Watch | undefined;
  private ending: Promise<void> | undefined;
  private lastHeard = clock();

  private constructor(
    readonly driver: RemoteEnd,
    private readonly place: Place,
    private readonly session: NewSession,
    attempt: AttemptRequest,
    private readonly sink: EvidenceSink,
    startedAt: number,
    size?: { width: number; height: number },
  ) {
    this.id = session.sessionId;
    this.recorder = new AttemptRecorder(
      sink,
      attempt,
      environmentOf(session.capabilities, attempt, size, place),
      startedAt,
    );
    this.commands = new CommandRecorder(
      this.recorder,
      () => this.watch,
      (parent, name) => this.frameOf(parent, name),
    );
  }

  private frameOf(parent: string, name: FrameName): Promise<string | undefined> {
    return this.watch instanceof SessionWatch ? this.watch.frame(parent, name) : Promise.resolve(undefined);
  }

  static async start(
    driver: RemoteEnd,
    place: Place,
    session: NewSession,
    attempt: AttemptRequest,
    sink: EvidenceSink,
    startedAt: number,
    size?: { width: number; height: number },
  ): Promise<RecordedSession> {
    const recorded = new RecordedSession(driver, place, session, attempt, sink, startedAt, size);
    driver.onExit(() => recorded.endLater('the driver process ended before the session did'));
    try {
      const socket = place.abilities.socket && Boolean(session.capabilities.webSocketUrl);
      recorded.watch = socket ? await recorded.watchBySocket(attempt) : await recorded.watchByScreen(attempt);
      if (!socket)
        recorded.missing(
          recorded.watch ? 'Only commands and pictures are recorded' : 'Only commands are recorded',
          'this browser tells nothing else of itself',
        );
      await recorded.knowsFirstWindow();
    } catch (error) {
      recorded.missing('Only commands are recorded', (error as Error).message);
    }
    return recorded;
  }

  /** A browser that tells of itself has told it; any other is asked once, while nothing can be disturbed. */
  private async knowsFirstWindow(): Promise<void> {
    const told = this.watch instanceof SessionWatch ? this.watch.first : undefined;
    const first = told ?? (await ask<string>(this.driver, `/session/${this.id}/window`));
    if (typeof first === 'string') this.commands.begins(first);
  }

  /** What a page found itself in, of a browser that was asked while the session was new. */
  private asked: Circumstances | undefined;

  /** For a client that opens a BiDi socket itself. */
  socket(): SocketSide {
    return this.driver.socket(this.session);
  }

  private watchBySocket(attempt: AttemptRequest): Promise<Watch> {
    return SessionWatch.start({
      connect: (onEvent, onClose) => this.driver.bidi(this.session, onEvent, onClose),
      abilities: this.place.abilities,
      door: debuggingDoor(this.place, this.session),
      recorder: this.recorder,
      detail: attempt.detail ?? 'standard',
      bodiesUnless: () => this.underWay > 0,
      traced: this.sink.traced ?? [],
      onClose: () => setTimeout(() => this.endLater('the browser went away before the session was ended'), 150),
    });
  }

  /** Where the page lies in its window is asked once, while the session is new and nothing can be disturbed. */
  private async watchByScreen(attempt: AttemptRequest): Promise<Watch | undefined> {
    const { screen } = this.driver;
    const detail = attempt.detail ?? 'standard';
    if (!screen || detail === 'light') return undefined;
    const script = `return [outerHeight - innerHeight, innerWidth, innerHeight, (() => { ${circumstancesScript} })()]`;
    const [bar, width, height, found] = await ask<[number, number, number, Circumstances]>(
      this.driver,
      `/session/${this.id}/execute/sync`,
      {
        script,
        args: [],
      },
    );
    this.asked = found;
    return new ScreenCamera(screen, { bar, width, height }, detail, this.recorder);
  }

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

  /** Has commands of a player taken down as a client's are. */
  readonly notes: CommandNotes = {
    before: (method, path, body) => this.begin(method, path, body),
    meanwhile: (method, path, body) => this.commands.meanwhile(method, path, body),
    after: (method, path, body, answer, at, until) => {
      if (answer) this.looksAfter(method, path, answer, until);
      this.took(method, path, body, answer, at, until);
    },
    free: () => this.looking,
  };

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
    clearTimeout(this.idleTimer);
    if (method !== undefined && path !== undefined && body) this.commands.before(method, path, body);
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

  /**
   * A browser without a socket was told to type, or a script may have: before its next command it is asked what the field
   * holds, once, so that a password is known for one and what did not arrive is seen.
   */
  looksAfter(method: string, path: string, answer: Answer, at: number): void {
    if (!this.watch || this.watch.tellsFields || answer.status !== 200) return;
    const { command, element, key } = readCommand(method, path);
    const types = command.action === 'type' && element !== undefined;
    if (!types && !mayHoldSecrets(command.action, key)) return;
    const look = (
      types
        ? fieldHeld(this.driver, this.id, element).then((held) => held && this.recorder.fieldHeld(element, held, at))
        : secretsHeld(this.driver, this.id).then((held) => held && this.recorder.secretsHeld(held, at))
    ).catch(() => undefined);
    this.looking = Promise.race([look, new Promise<void>((done) => setTimeout(done, longestLookMs).unref())]);
  }
  /** Settled when the driver is free for the test’s next command. */
  looking: Promise<unknown> | undefined;

  /** Takes note of a command after it was answered; never on the client's time. */
  took(method: string, path: string, body: Buffer, answer: Answer | undefined, at: number, until: number): void {
    this.underWay--;
    this.lastHeard = clock();
    this.commands.after(method, path, body, answer, at, until);
    if (this.asked && path === '/url') {
      this.recorder.circumstances(this.asked, at);
      this.asked = undefined;
    }
    clearTimeout(this.idleTimer);
    if (this.underWay === 0) this.idleTimer = setTimeout(() => this.aside('idling', () => this.watch?.idle()), idleMs);
    this.idleTimer?.unref();
  }
  private idleTimer: NodeJS.Timeout | undefined;

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
    await this.watch?.flush(this.failed);
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
