import { background } from '../../core/background.ts';
import type { Environment } from '../../core/evidence/attempt.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import { clock } from '../recording/clock.ts';
import { CommandRecorder } from '../recording/command-recorder.ts';
import { AttemptRecorder } from '../recording/recorder.ts';
import { SessionWatch } from '../recording/session-watch.ts';
import type { AttemptRequest, EvidenceSink } from '../recording/sink.ts';
import type { WatchedBrowser } from './watched-browser.ts';
import type { ClientStep } from './client-step.ts';
import { ScriptedSteps, type Scripted } from './scripted-steps.ts';

/**
 * A test that is silent this long is thinking, and one that has waited this long for an answer waits for the page: what could
 * wait may be done now, ms.
 */
const silentMs = 80;
const patientMs = 150;

/** The page's clock and ours agree to within this, ms. */
const clockMs = 10;
const mostOwnWork = 50;
const mostUnclaimed = 20;

/** What everybody shares: sent once for all contexts, when the connection began. */
const sharedCommands = new Set(['session.subscribe', 'script.addPreloadScript', 'network.addDataCollector']);

/** One isolated context of a browser: one attempt, recorded as a session of the endpoint is. */
export class ContextAttempt {
  readonly recorder: AttemptRecorder;
  private readonly commands: CommandRecorder;
  private watch: SessionWatch | undefined;
  private onEvent: BidiListener | undefined;
  /** What was told before the watch stood. */
  private early: Parameters<BidiListener>[] | undefined = [];
  private window: string | undefined;
  private waiting = 0;
  private idle: NodeJS.Timeout | undefined;
  private sizeGiven = false;
  /** Whether the client did anything in it. */
  used = false;
  /** Whether it pressed or typed anything itself. */
  private acted = false;
  /** When the client did something in the page by a function of its own; the last may not be answered yet. */
  private readonly ownWork: { at: number; until: number; element: string }[] = [];
  /** What came of that: fields that were given something without any input. */
  private readonly ofClient = new ScriptedSteps((step) => this.carryOut(step), false);
  /** What scripts did while nobody was known to be at work. */
  private unclaimed: { record: Scripted; context: string }[] = [];
  private readonly scripted = new ScriptedSteps((step) => {
    // What is opened for a test inside the page is where it is from then on, a window or a frame.
    if (step.path === '/url') this.window = undefined;
    this.carryOut(step);
  });

  constructor(
    sink: EvidenceSink,
    request: AttemptRequest,
    environment: Environment,
    private readonly link: BidiLink,
    { abilities, door }: Pick<WatchedBrowser, 'abilities' | 'door'>,
    startedAt: number,
  ) {
    this.recorder = new AttemptRecorder(sink, request, environment, startedAt);
    this.commands = new CommandRecorder(this.recorder, () => this.watch);
    this.recorder.listener = (event) => {
      // A window that the client gave no size has the one that its first page finds.
      const found = event.lane === 'page' ? event.data.circumstances?.window : undefined;
      if (found && !this.sizeGiven) this.recorder.sized(found[0], found[1]);
    };
    // A client that acts by itself is no runner inside the page.
    this.recorder.onScripted = (record, context) => {
      if (!this.acted && !record.a) this.scripted.take(record, context);
      else if (!this.takes(record, context)) {
        this.unclaimed.push({ record, context });
        if (this.unclaimed.length > mostUnclaimed) this.unclaimed.shift();
      }
    };
    const started = SessionWatch.start({
      connect: (onEvent) => {
        this.onEvent = onEvent;
        return Promise.resolve(this.ownLink());
      },
      abilities,
      ...(door ? { door } : {}),
      recorder: this.recorder,
      detail: request.detail ?? 'standard',
      bodiesUnless: () => this.waiting > 0 && !this.patient,
      scripted: true,
      onClose: () => undefined,
    });
    background('watching a context', this.stand(started), this.recorder.id);
  }

  private async stand(started: Promise<SessionWatch>): Promise<void> {
    this.watch = await started;
    const { early } = this;
    this.early = undefined;
    for (const one of early ?? []) this.onEvent?.(...one);
  }

  /** The connection as this attempt may use it: what all contexts share was sent once. */
  private ownLink(): BidiLink {
    return {
      send: <R>(method: string, params: Record<string, unknown>): Promise<R> => {
        if (sharedCommands.has(method)) return Promise.resolve({} as R);
        // Windows are told as they open, in all contexts at once.
        if (method === 'browsingContext.getTree') return Promise.resolve({ contexts: [] } as R);
        return this.link.send<R>(method, params);
      },
      catchUp: () => this.link.catchUp(),
      close: () => undefined,
    };
  }

  hear(...told: Parameters<BidiListener>): void {
    if (this.early) this.early.push(told);
    else this.onEvent?.(...told);
  }

  /** What a script did while the client was at work by itself was done by the client. */
  private takes(record: Scripted, context: string): boolean {
    // What is not over yet may be over before: the page tells sooner than the client's messages are read.
    const work = this.ownWork.findLast(
      ({ at, until }) => until !== Infinity && record.t >= at - clockMs && record.t <= until + clockMs,
    );
    if (work) this.ofClient.take(record, context, work.element);
    return work !== undefined;
  }

  /** The client is at work in the page by itself. */
  byItself(element: string, at: number, until = Infinity): void {
    const known = this.ownWork.find((one) => one.at === at && one.element === element);
    if (known) known.until = until;
    else if (this.ownWork.push({ at, until, element }) > mostOwnWork) this.ownWork.shift();
    // The page may have told of it before the client's command was read.
    this.unclaimed = this.unclaimed.filter(({ record, context }) => !this.takes(record, context));
  }

  /** Something the client did here. */
  step(step: ClientStep): void {
    this.used = true;
    if (step.path === '/actions') this.acted = true;
    this.scripted.beside(step);
    this.scripted.over();
    this.ofClient.over();
    this.carryOut(step);
    // A picture is taken where a test has come to its end, mostly: what its page got is asked for while it is there.
    if (step.path === '/screenshot') this.watch?.idle();
  }

  private carryOut({ target, method, path, body, answer, at, until }: ClientStep): void {
    if (this.window === undefined) this.commands.begins(target);
    else if (this.window !== target) {
      const handle = Buffer.from(JSON.stringify({ handle: target }));
      const done = { status: 200, headers: {}, body: Buffer.from('{"value":null}') };
      this.commands.after('POST', '/window', handle, done, at, at);
    }
    this.window = target;
    if (path === '/window/rect') this.sizeGiven = true;
    this.commands.before(method, path, body);
    this.commands.meanwhile(method, path, body);
    this.commands.after(method, path, body, answer, at, until);
  }

  opens(address: string): void {
    this.commands.opens(address);
  }

  busy(busy: boolean): void {
    this.waiting = Math.max(0, this.waiting + (busy ? 1 : -1));
    this.patient = false;
    clearTimeout(this.idle);
    this.idle = setTimeout(
      () => {
        this.patient = true;
        this.watch?.idle();
      },
      this.waiting === 0 ? silentMs : patientMs,
    );
    this.idle.unref();
  }
  /** Nothing came of the client for a while, and nothing was answered. */
  private patient = false;

  /**
   * @param interrupted why, where it did not end by itself
   * @param over when the client was done with it: what is still to be told then is not time of its test
   */
  async end(interrupted?: string, over = clock()): Promise<void> {
    clearTimeout(this.idle);
    await this.watch?.flush(false).catch(() => undefined);
    this.scripted.over();
    this.ofClient.over();
    this.watch?.close();
    await this.recorder.end(interrupted, over);
  }
}
