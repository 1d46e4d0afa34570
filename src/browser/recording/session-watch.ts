import type { Detail } from '../../core/records.ts';
import { background } from '../../core/background.ts';
import type { Abilities } from '../abilities.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import type { DebuggingDoor } from '../debugging-door.ts';
import {
  observerChannel as channel,
  observerScripts,
  observerWorld,
  pageChannel,
  toldByPage,
  type ObserverRecord,
} from '../observer/source.ts';
import type { Locator } from '../../core/evidence/event.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { TraceAdder } from './trace-adder.ts';
import { BodyCollector } from './body-collector.ts';
import { Camera, type PageCamera } from './camera.ts';
import { browserEvents, type BrowserEventTeller } from './browser-events.ts';
import { clock } from './clock.ts';
import { floodKind, Floods, most, withinMs, type FloodKind } from './floods.ts';
import type { AttemptRecorder } from './recorder.ts';
import { SocketCamera } from './socket-camera.ts';
import type { Watch } from './watch.ts';
import type { FrameName } from './window-track.ts';

/** How long a failed attempt may wait for answers still under way. Passing attempts never wait. */
const lingerMs = 700;
const requestEvents = ['network.beforeRequestSent', 'network.responseStarted', 'network.fetchError'];
const consoleEvents = ['log.entryAdded'];
const pageEvents = [
  'browsingContext.contextCreated',
  'browsingContext.contextDestroyed',
  'browsingContext.navigationStarted',
  'browsingContext.navigationCommitted',
  'browsingContext.domContentLoaded',
  'browsingContext.load',
  'browsingContext.fragmentNavigated',
  'browsingContext.userPromptOpened',
  'browsingContext.userPromptClosed',
  'script.realmCreated',
  'script.realmDestroyed',
  'script.message',
];

/** Ends of bodies: the standard tells them with all headers a second time, Chromium's own events briefly and exactly. */
const standardEnds = ['network.responseCompleted'];
const debuggingEnds = [
  'loadingFinished',
  'loadingFailed',
  'webSocketCreated',
  'webSocketWillSendHandshakeRequest',
  'webSocketHandshakeResponseReceived',
  'webSocketClosed',
].map((name) => `goog:cdp.Network.${name}`);

/** All that is heard of a browser with its own debugging events, and of one without. */
const events = [...pageEvents, ...consoleEvents, ...requestEvents];
export const everyEvent: readonly string[] = [...events, ...debuggingEnds];
export const everyStandardEvent: readonly string[] = [...events, ...standardEnds];

/** How long bodies are asked for once a test is over, ms; a failed one is worth waiting for. */
const bodiesAtEndMs = { passed: 300, failed: 1500 };

/**
 * Watches one WebDriver session through BiDi: subscribes, puts the observer into every document,
 * runs the camera, and tells the current recorder what happens.
 */
export class SessionWatch implements Watch {
  readonly tellsFields = true;
  private bidi!: BidiLink;
  private readonly known = new Map<string, Locator>();
  /** The observer's realm of each browsing context. */
  private readonly realms = new Map<string, string>();
  private readonly teller: BrowserEventTeller;
  private camera: PageCamera | undefined;
  private readonly bodies: BodyCollector | undefined;

  private constructor(
    private recorder: AttemptRecorder | undefined,
    /** What the page is made of is kept besides how it looked. */
    private readonly withStructure: boolean,
    private readonly withScripted: boolean,
    bodiesUnless: (() => boolean) | undefined,
  ) {
    this.bodies =
      bodiesUnless &&
      new BodyCollector(
        (method, params) => this.bidi.send(method, params),
        () => this.recorder,
        bodiesUnless,
      );
    this.teller = browserEvents(
      () => this.recorder,
      (id, data) => this.bodies?.over(id, data),
    );
    this.expect();
  }

  /** What the test used before is watched from the start. */
  private expect(): void {
    for (const locator of this.recorder?.expected ?? []) this.known.set(locatorKey(locator), locator);
  }

  static async start(options: {
    connect: (onEvent: BidiListener, onClose: () => void) => Promise<BidiLink>;
    abilities: Abilities;
    /** Where pictures come straight from the browser; without it they are asked for through the socket. */
    door?: DebuggingDoor;
    recorder?: AttemptRecorder;
    detail: Detail;
    /** Whether the test waits for the browser, so that bodies are not asked for now; left out, none are. */
    bodiesUnless?: () => boolean;
    /** Whether what scripts dispatch in a page is told: tests may run in it. */
    scripted?: boolean;
    /** Services to which a trace context is sent along: scheme, host and port. */
    traced?: readonly string[];
    onClose: () => void;
  }): Promise<SessionWatch> {
    const watch = new SessionWatch(
      options.recorder,
      options.detail !== 'light',
      options.scripted === true,
      options.detail === 'light' || !options.abilities.bodies ? undefined : options.bodiesUnless,
    );
    watch.bidi = await options.connect((method, params, heard) => watch.hear(method, params, heard), options.onClose);
    const { detail, door, abilities } = options;
    if (detail !== 'light') {
      const recorder = (): AttemptRecorder | undefined => watch.recorder;
      watch.camera = door ? new Camera(door, detail, recorder) : new SocketCamera(watch.bidi, detail, recorder);
    }
    try {
      // Sent together and answered in order: one round trip instead of two.
      await Promise.all([
        watch.bidi.send('session.subscribe', { events: pageEvents }),
        watch.hears('console lines', consoleEvents),
        watch.hears('requests', requestEvents),
        watch.hearsEnds(abilities.debugging),
        watch.bodies?.start(),
        ...(options.traced?.length ? [watch.sendTraces(options.traced, door)] : []),
        ...observerScripts.map((script) => watch.bidi.send('script.addPreloadScript', script)),
      ]);
      await watch.knowsWindows();
    } catch (error) {
      watch.close();
      throw error;
    }
    return watch;
  }

  /** A browser that holds no requests back is recorded without what its services did. */
  private async sendTraces(addresses: readonly string[], door: DebuggingDoor | undefined): Promise<void> {
    this.traces = new TraceAdder({
      addresses,
      attempt: () => this.recorder?.id,
      send: (method, params) => this.bidi.send(method, params),
      sentAlong: (request, header) => this.teller.sentAlong(request, header),
    });
    await this.traces.start(door).catch(() => undefined);
  }
  private traces: TraceAdder | undefined;

  /** Browsers tell of the windows that are there to whoever asks first; when that was not us, they are asked. */
  private async knowsWindows(): Promise<void> {
    if (this.first !== undefined) return;
    const { contexts } = await this.bidi.send<{ contexts: { context: string; url: string }[] }>(
      'browsingContext.getTree',
      { maxDepth: 0 },
    );
    for (const { context, url } of contexts)
      this.hear('browsingContext.contextCreated', { context, parent: null, url } as never, clock());
  }

  /** Subscribes to events that may become a flood: each kind can be let go of by itself. */
  private async hears(kind: FloodKind, events: readonly string[]): Promise<void> {
    const { subscription } = await this.bidi.send<{ subscription?: string }>('session.subscribe', { events });
    this.heard.push({ kind, events, subscription });
  }
  private heard: { kind: FloodKind; events: readonly string[]; subscription: string | undefined }[] = [];

  private async hearsEnds(debugging: boolean): Promise<void> {
    const standard = (): Promise<unknown> => this.hears('requests', standardEnds);
    if (debugging) await this.hears('requests', debuggingEnds).catch(standard);
    else await standard();
  }

  /** A page makes something without end: that is said, and it is heard no more until another page is opened. */
  private flooded(kind: FloodKind): void {
    const label = `No more ${kind} of this page are recorded: it made ${most} within ${withinMs / 1000} s`;
    this.recorder?.add({ lane: 'note', kind: 'recorder', at: clock(), clock: 'recorder', data: { label, ok: false } });
    if (kind === 'requests') this.bodies?.stop();
    for (const one of this.heard.filter((one) => one.kind === kind && one.subscription !== undefined))
      background('letting go of a flood', this.bidi.send('session.unsubscribe', { subscriptions: [one.subscription] }));
  }

  /** Another page: what was let go of may be worth hearing again. */
  opens(): void {
    const again = this.floods.begin();
    if (again.includes('requests') && this.bodies) background('keeping bodies again', this.bodies.start());
    const all = this.heard;
    this.heard = all.filter(({ kind }) => !again.includes(kind));
    for (const { kind, events } of all)
      if (again.includes(kind)) background('hearing of a page again', this.hears(kind, events));
  }
  private readonly floods = new Floods();

  /** From now on everything belongs to this attempt, and only what it looks for is watched. */
  record(recorder: AttemptRecorder | undefined): void {
    this.recorder = recorder;
    this.bodies?.forget();
    this.known.clear();
    this.expect();
  }

  private hear(method: string, params: never, heard: number): void {
    const kind = floodKind(method);
    if (kind) {
      if (this.floods.over.has(kind)) return;
      if (this.floods.comes(method, kind, heard)) return this.flooded(kind);
    }
    switch (method) {
      case 'network.beforeRequestSent':
        this.traces?.hear(params);
        break;
      case 'script.realmCreated':
        return this.realmCreated(params);
      case 'script.realmDestroyed':
        return this.realmDestroyed(params);
      case 'script.message':
        return this.message(params);
      case 'browsingContext.contextCreated':
        this.contextCreated(params);
        break;
      case 'browsingContext.domContentLoaded':
      case 'browsingContext.load':
        this.camera?.wakeAll();
        break;
      case 'browsingContext.contextDestroyed':
        this.contextDestroyed(params);
        break;
    }
    this.teller.tell(method, params, heard);
  }

  /** The window that was there first. */
  first: string | undefined;

  private contextCreated(context: { context: string; parent: string | null }): void {
    if (context.parent === null) this.first ??= context.context;
    if (context.parent === null) this.camera?.open(context.context);
  }

  private contextDestroyed(context: { context: string }): void {
    this.camera?.close(context.context);
    this.realms.delete(context.context);
  }

  private realmCreated(realm: { realm: string; sandbox?: string; context?: string }): void {
    if (realm.sandbox !== observerWorld || !realm.context) return;
    this.realms.set(realm.context, realm.realm);
    const locators = [...this.known].map(([key, locator]) => ({ key, locator }));
    const attached = this.call(realm.realm, '(...all) => iskelObserver.attach(...all)', [
      { type: 'channel', value: { channel } },
      { type: 'string', value: JSON.stringify(locators) },
      { type: 'boolean', value: this.withStructure },
      { type: 'boolean', value: this.withScripted },
    ]);
    background('attaching to a document', attached);
  }

  private realmDestroyed({ realm }: { realm: string }): void {
    for (const [context, known] of this.realms) if (known === realm) this.realms.delete(context);
  }

  private message(message: {
    channel: string;
    data: { value: string };
    source: { context: string; realm: string };
  }): void {
    const { context, realm } = message.source;
    if (message.channel === pageChannel)
      return this.recorder?.observed(toldByPage(JSON.parse(message.data.value)), context, realm);
    if (message.channel !== channel || this.realms.get(context) !== realm) return;
    const records = JSON.parse(message.data.value) as ObserverRecord[];
    // What is watched is worth a picture soon; a page that merely changes somewhere, now and then.
    if (records.some(({ k }) => k === 'element')) this.camera?.wakeAll('rested');
    else if (records.some(({ k }) => k === 'mutations')) this.camera?.wakeAll('now and then');
    this.recorder?.observed(records, context, realm);
  }

  private call(realm: string, functionDeclaration: string, args: unknown[]): Promise<unknown> {
    // A document may be gone before it is reached; that is no fault.
    return this.bidi
      .send('script.callFunction', { functionDeclaration, target: { realm }, awaitPromise: false, arguments: args })
      .catch(() => undefined);
  }

  /** A step changed the page, or failed: the moment is worth a picture, and a failure the page's structure. */
  happened(failed: boolean): void {
    this.camera?.wakeAll(failed ? 'at once' : 'soon');
    if (failed && this.withStructure)
      for (const realm of this.realms.values())
        background('asking for a structure', this.call(realm, '() => iskelObserver.structure()', []));
  }

  /** Watches a locator in every open document from now on, and in every later one from its start. */
  watch(locator: Locator): void {
    const key = locatorKey(locator);
    this.recorder?.asksFor(key);
    if (this.known.has(key)) return;
    this.known.set(key, locator);
    const text = JSON.stringify({ key, locator });
    for (const realm of this.realms.values())
      background(
        'watching a locator',
        this.call(realm, '(text) => iskelObserver.watch(text)', [{ type: 'string', value: text }]),
      );
  }

  /** How many requests have not been answered yet. */
  get underWay(): number {
    return this.teller.underWay();
  }

  /** Waits, not long, until the page's requests are answered. */
  async linger(): Promise<void> {
    const end = performance.now() + lingerMs;
    while (this.underWay > 0 && performance.now() < end) await new Promise((done) => setTimeout(done, 15));
  }

  /** Has every document tell what it still holds back. */
  async flush(failed: boolean): Promise<void> {
    const all = [...this.realms.values()].map((realm) => this.call(realm, '() => iskelObserver.flush()', []));
    await Promise.race([Promise.all(all), new Promise((done) => setTimeout(done, 400))]);
    this.bidi.catchUp();
    this.teller.finish();
    await this.bodies?.finish(failed ? bodiesAtEndMs.failed : bodiesAtEndMs.passed);
  }

  idle(): void {
    this.bodies?.idle();
  }

  /** The browsing context of a frame. */
  async frame(parent: string, name: FrameName): Promise<string | undefined> {
    const [functionDeclaration, argument] =
      'element' in name
        ? ['(frame) => frame.contentWindow', { sharedId: name.element }]
        : [
            '(number) => document.querySelectorAll("iframe, frame")[number]?.contentWindow',
            { type: 'number', value: name.number },
          ];
    const { result } = await this.bidi.send<{ result?: { type?: string; value?: { context?: string } } }>(
      'script.callFunction',
      {
        functionDeclaration,
        target: { context: parent, sandbox: observerWorld },
        awaitPromise: false,
        arguments: [argument],
      },
    );
    return result?.type === 'window' ? result.value?.context : undefined;
  }

  async send<R>(method: string, params: Record<string, unknown>): Promise<R> {
    return this.bidi.send<R>(method, params);
  }

  close(): void {
    this.camera?.end();
    this.traces?.close();
    this.bidi.close();
  }
}
