import { availableParallelism, loadavg } from 'node:os';
import type { Environment } from '../../core/evidence/attempt.ts';
import { bodyText, keptOfBody } from '../../core/evidence/body-text.ts';
import type {
  BodyData,
  Circumstances,
  EvidenceEvent,
  Locator,
  StepData,
  StepEvent,
  KnownElement,
} from '../../core/evidence/event.ts';
import { createMasker, maskMark, type Masker } from '../../core/evidence/masking.ts';
import { locatorKey, locatorText } from '../../core/evidence/locator.ts';
import { ownBy, type HostRules } from '../../core/rules/hosts.ts';
import type { ObserverRecord } from '../observer/source.ts';
import type { CommandCall } from './commands.ts';
import type { FieldHeld, SecretsHeld } from './field-look.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from './sink.ts';
import { Allowance } from './allowance.ts';
import { clock } from './clock.ts';
import { maskLate } from './late-secrets.ts';
import { MaskingQueue } from './masking-queue.ts';
import type { Unnumbered } from './unnumbered.ts';
import { ObservedPage } from './observed-page.ts';
import { Outbox } from './outbox.ts';
import { keysOf, TypedValues } from './typed-values.ts';
import { cookieTickets } from './cookies.ts';
import { answerStep, askedStep, locatorOf } from './steps.ts';

/** Evidence lies in memory this long at most; what a killed server loses is no more than this. */
const flushEveryMs = 250;
/** A failure's message and stack are kept to this length. */
const longestFailure = 200_000;

/** An end waits this long for what is still to be written, ms. */
const longestEndMs = 2000;

/** Most bytes that a body takes once it is kept. */
const mostOfBody = keptOfBody.head + keptOfBody.tail;

/** Runnable processes to a core, over the last minute. */
const machineLoad = (): number => Math.round((loadavg()[0]! / availableParallelism()) * 100) / 100;

/** Collects the evidence of one attempt and hands it on, masked, in batches. */
export class AttemptRecorder {
  readonly id: string;
  readonly startedAt: number;
  private readonly masker: Masker;
  private readonly elements = new Map<string, KnownElement>();
  readonly typing: TypedValues;
  private readonly page = new ObservedPage(this);
  private readonly ownHosts = new Set<string>();
  /** What the test used in attempts before and is watched already, though nobody has asked for it yet. */
  readonly expected: readonly Locator[];
  /** By key of a locator that is expected: what became of it so far. Written once the test asks for it. */
  readonly early = new Map<string, Unnumbered[]>();
  /** As it came; masked when it is written, not while a command waits. */
  private readonly raw: MaskingQueue;
  /** Masked already. */
  private buffer: EvidenceEvent[] = [];
  private count = 0;
  private opened = false;
  private timer: NodeJS.Timeout | undefined;
  private ended = false;
  private ending: Promise<void> | undefined;
  private pending = 0;
  private readonly outbox: Outbox;
  private readonly allowance: Allowance;
  private readonly hosts: HostRules | undefined;
  /** Pictures and structures that could not be kept, by why. */
  private readonly unkept = new Map<string, number>();

  constructor(
    private readonly sink: EvidenceSink,
    request: AttemptRequest,
    environment: Environment,
    startedAt = clock(),
  ) {
    this.masker = createMasker(
      (request.secrets ?? []).filter((secret) => secret.length >= 3),
      sink.masks?.() ?? [],
    );
    const standing = sink.standing?.();
    this.hosts = standing?.hosts;
    this.allowance = Allowance.within(standing?.limits);
    this.typing = new TypedValues(this.masker, (event) => void this.buffer.push(event));
    this.raw = new MaskingQueue(this.masker, () => this.typing.learned.size > 0);
    const { secrets: _never, ...kept } = request;
    this.id = sink.newId();
    this.outbox = new Outbox(this.id);
    const masked = this.masker.value(kept);
    this.outbox.send('beginning an attempt', () => sink.begin(this.id, masked, environment, startedAt, this.masker));
    this.startedAt = startedAt;
    this.expected = sink.usedBefore?.(this.id) ?? [];
    for (const locator of this.expected) this.early.set(locatorKey(locator), []);
  }

  /** What a field holds: a secret that is being typed stands there by half, and goes too. */
  typedSoFar(text: string): string {
    const holds = this.masker.begins(text);
    return holds === 'telling' || holds === 'whole' ? maskMark : text;
  }

  /** Of a text that may be of any length: masked, then cut. */
  shortened(text: string, length: number): string {
    return this.masker.cut(text, length);
  }

  /** A name for an event that is added later. */
  newId(): string {
    return `e${++this.count}`;
  }

  /** Adds an event; `at` and `until` are wall-clock ms here, and relative in the store. */
  add(event: Unnumbered, id = this.newId()): string {
    if (this.ended || !this.allowance.allows(event.lane)) return id;
    const relative = {
      ...event,
      id,
      at: this.relative(event.at),
      ...(event.until === undefined ? {} : { until: this.relative(event.until) }),
    };
    this.raw.push(relative as EvidenceEvent);
    this.listener?.(event);
    this.schedule();
    return id;
  }

  /** Hears every event as it is added, on the wall clock: what a drill waits for. */
  listener: ((event: Unnumbered) => void) | undefined;

  /** What a drill says of itself. */
  noted(words: string): void {
    this.add({ lane: 'note', kind: 'note', at: clock(), clock: 'recorder', data: { label: words } });
  }

  /** A check that a drill made. */
  checked(label: string, ok: boolean, expected: string, actual: string): void {
    const data = { label, ok, expected, actual };
    this.add({ lane: 'note', kind: 'check', at: clock(), clock: 'recorder', data });
  }

  relative(wall: number): number {
    return Math.round((wall - this.startedAt) * 100) / 100;
  }

  /** One command of the test and its answer. Returns the locator it looked with, if any, for the observer. */
  command(
    call: CommandCall,
    body: Record<string, unknown>,
    answer: Record<string, unknown> | undefined,
    at: number,
    until: number,
    windows?: { stamp(data: StepData): void },
    extra: Partial<StepData> = {},
  ): StepEvent {
    const id = this.newId();
    const data = { ...askedStep(call, body, this.elements, this.masker.cut), ...extra };
    answerStep(data, id, answer, this.elements, this.masker.cut);
    windows?.stamp(data);
    const event: StepEvent = {
      id,
      lane: 'step',
      kind: 'command',
      at: this.relative(at),
      until: this.relative(until),
      clock: 'recorder',
      data,
    };
    if (this.ended || !this.allowance.allows('step')) return event;
    if (data.action === 'open' && data.input) this.opens(data.input);
    const line = data.action === 'type' && data.locator ? locatorKey(data.locator) : undefined;
    if (data.action === 'type') this.typing.typed(event, line);
    else if (data.action === 'keys') this.typing.pressed(event, keysOf(body));
    else this.raw.push(event);
    this.schedule();
    return event;
  }

  /** A command whose body or answer makes no sense: that it was sent, and how it ended. */
  unreadable({ command }: CommandCall, answer: Record<string, unknown> | undefined, at: number, until: number): void {
    const value = answer?.value as { error?: unknown; message?: unknown } | null | undefined;
    const code = typeof value?.error === 'string' ? value.error : undefined;
    const message = typeof value?.message === 'string' ? value.message : '';
    this.add({
      lane: 'step',
      kind: 'command',
      at,
      until,
      clock: 'recorder',
      data: {
        command: command.name,
        action: command.action,
        label: `${command.name}, with a body that makes no sense`,
        ...(code ? { error: { code, message } } : {}),
      },
    });
  }

  /** The locator a find looks with, inside the element it looks in. */
  locatorAsked(body: Record<string, unknown>, element?: string): Locator | undefined {
    return locatorOf(body, element ? this.elements.get(element)?.locator : undefined);
  }

  /** The test asks for a locator: what became of it before belongs to the attempt from now on. */
  asksFor(key: string): void {
    const early = this.early.get(key);
    this.early.delete(key);
    for (const event of early ?? []) this.add(event);
  }

  /** A test is about to open an address: its host is the application's own. */
  opens(address: string): void {
    try {
      this.ownHosts.add(new URL(address).host);
    } catch {
      // not an address with a host
    }
    if (this.opened) return;
    this.opened = true;
    const masked = this.masker.text(address);
    this.outbox.send('naming an attempt', () => this.sink.opened(this.id, masked));
  }

  /** Cookies that went with a request or came with an answer: what looks like a ticket in them is a secret. */
  sawCookies(text: string): void {
    this.masker.learn(cookieTickets(text));
  }

  isOwn(host: string): boolean {
    return (this.hosts && ownBy(this.hosts, host)) ?? this.ownHosts.has(host);
  }

  /** What a field was found to hold right after it was typed into, where no observer tells. */
  fieldHeld(element: string, { secret, value }: FieldHeld, at: number): void {
    const locator = this.elements.get(element)?.locator;
    if (!locator) return;
    this.typing.know(locatorKey(locator), secret);
    if (secret) this.typing.learn(value);
    this.add({
      lane: 'page',
      kind: 'held-value',
      at,
      clock: 'recorder',
      data: { label: locatorText(locator), text: secret ? maskMark : this.typedSoFar(value) },
    });
  }

  /** What secret fields were found to hold, where no observer tells. */
  secretsHeld({ values, focused }: SecretsHeld, at: number): void {
    for (const value of values) this.typing.learn(value);
    if (focused) this.typing.secretAt(this.relative(at));
  }

  /** Told what scripts in a page did to it, where that is asked for. */
  onScripted: ((record: Extract<ObserverRecord, { k: 'scripted' }>, context: string) => void) | undefined;

  /** What the in-page observer told of one document. */
  observed(records: readonly ObserverRecord[], context: string, realm: string): void {
    for (const record of records) this.page.observe(record, context, realm);
  }

  /** What the first page found itself in; what later ones do is of the test's own making. */
  circumstances(found: Circumstances, at: number, context?: string): void {
    if (this.circumstancesTold || this.ownHosts.size === 0) return;
    this.circumstancesTold = true;
    const data = { circumstances: found, ...(context ? { context } : {}) };
    this.add({ lane: 'page', kind: 'circumstances', at, clock: 'page', data });
  }
  private circumstancesTold = false;

  /** How busy the machine is, processes to a core. */
  private readonly loadAtStart = machineLoad();

  /** What a document was made of: kept masked as a blob, told as an event. */
  async structure(record: { t: number; x: string; u: string; n: number }, context: string): Promise<void> {
    const blob = await this.kept(() => Buffer.from(this.masker.markup(record.x)), 'text/html');
    if (blob === undefined) return;
    this.add({
      lane: 'page',
      kind: 'structure',
      at: record.t,
      clock: 'page',
      data: { blob, address: record.u, count: record.n, context },
    });
  }

  get keepsBodies(): boolean {
    return this.sink.keepsBodies !== false;
  }

  /**
   * What was sent or came back with an exchange. It waits until it is known what was typed into password fields: such a
   * value travels in the bodies of forms.
   */
  body(data: BodyData): void {
    if (!this.ended && this.allowance.allowsBytes(Math.min(data.length, mostOfBody))) this.bodies.push(data);
    this.schedule();
  }
  private readonly bodies: BodyData[] = [];

  private writeBodies(): void {
    if (!this.bodies.length) return;
    const { masker } = this;
    for (const body of this.bodies.splice(0)) {
      const data = { ...body, mime: this.masker.text(body.mime), text: bodyText(body.text, masker) };
      const at = this.relative(clock());
      this.buffer.push({ id: this.newId(), lane: 'body', kind: 'body', at, clock: 'recorder', data });
    }
  }

  /** Keeps bytes as a blob. Nothing when they could not be kept, which the attempt says at its end. */
  private async kept(bytes: () => Buffer, mime: string): Promise<string | undefined> {
    if (this.ended) return undefined;
    this.pending++;
    try {
      const all = bytes();
      if (!this.allowance.allowsBytes(all.length)) return undefined;
      return await this.sink.keep(all, mime);
    } catch (error) {
      const why = error instanceof Error ? error.message.replace(/'[^']*'/g, '').slice(0, 200) : 'unknown';
      this.unkept.set(why, (this.unkept.get(why) ?? 0) + 1);
      return undefined;
    } finally {
      this.pending--;
    }
  }

  /** Picture pixels to one CSS pixel of the windows of this session, as their pages tell. */
  ratio = 1;

  /** Of a screenshot the test took: it shows the window's pixels, as many to a CSS pixel as the page tells. */
  screenshot(png: Buffer, at: number, part: boolean): Promise<void> {
    const known = png.length > 24;
    const [width, height] = known ? [png.readUInt32BE(16), png.readUInt32BE(20)] : [0, 0];
    const size = { width, height, scale: this.ratio, ...(part ? { part } : {}) };
    return this.picture('screenshot', png, 'image/png', at, size);
  }

  /** A picture: kept as a blob first, then told as an event. */
  async picture(
    kind: 'frame' | 'screenshot',
    bytes: Buffer,
    mime: string,
    at: number,
    size: { width: number; height: number; scale: number; part?: boolean },
    context?: string,
  ): Promise<void> {
    const blob = await this.kept(() => bytes, mime);
    if (blob === undefined) return;
    this.add({
      lane: 'screen',
      kind,
      at,
      clock: kind === 'frame' ? 'browser' : 'recorder',
      data: { blob, mime, ...size, ...(context ? { context } : {}) },
    });
  }

  /** The window's size, once it is known. */
  sized(width: number, height: number): void {
    this.outbox.send('telling the size', () => this.sink.sized(this.id, width, height));
  }

  outcome(told: ToldOutcome): void {
    const cut = (text: string): string => this.masker.cut(text, longestFailure);
    const masked = { ...told, message: cut(told.message), stack: cut(told.stack) };
    this.outbox.send('telling the outcome', () => this.sink.outcome(this.id, masked));
  }

  private schedule(): void {
    this.timer ??= setTimeout(() => this.flush(), flushEveryMs);
  }

  /** Writes what has gathered. Typed values whose field stays unknown are masked. */
  flush(last = false): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const waiting = this.typing.flush(last);
    if (!waiting) this.writeBodies();
    this.buffer.push(...this.raw.take(last ? Infinity : this.relative(clock())));
    if (this.buffer.length) {
      const batch = this.buffer;
      this.buffer = [];
      this.outbox.send('writing evidence', () => this.allowance.wrote(this.sink.write(this.id, batch)), batch.length);
    }
    if (waiting || this.raw.waiting) this.schedule();
  }

  /**
   * Ends the recording once; later calls wait for the same end. What cannot be written yet goes on being tried by
   * itself after a moment: nobody waits for it.
   * @param over when it was over, ms since the epoch, where that is known: what is written down later takes none of its time
   */
  end(interrupted?: string, over?: number): Promise<void> {
    this.ending ??= this.close(interrupted, over);
    return this.ending;
  }

  private async close(interrupted: string | undefined, over = clock()): Promise<void> {
    const durationMs = this.relative(over);
    for (let i = 0; this.pending > 0 && i < 100; i++) await new Promise((done) => setTimeout(done, 10));
    const cores = availableParallelism();
    const load = { from: this.loadAtStart, until: machineLoad(), cores };
    this.add({ lane: 'page', kind: 'machine', at: clock(), clock: 'recorder', data: { load } });
    this.flush(true);
    this.sayWhatIsMissing();
    this.flush(true);
    const learned = [...this.typing.learned];
    if (learned.length) {
      if (this.sink.learned) this.outbox.send('noting secrets down', () => this.sink.learned?.(learned));
      await this.outbox.drained(longestEndMs);
      await maskLate(this.sink, this.id, learned, (event) => this.masker.value(event));
    }
    this.ended = true;
    clearTimeout(this.timer);
    this.outbox.send('ending an attempt', () => {
      const { broken } = this.outbox;
      const why = broken === undefined ? interrupted : `its evidence could no longer be written: ${broken}`;
      this.sink.end(this.id, durationMs, why);
    });
    await this.outbox.drained(longestEndMs);
  }

  /** An attempt that is not whole says so itself, and by how much. */
  private sayWhatIsMissing(): void {
    const lines = [
      ...this.allowance.leftOut(),
      ...this.raw.leftOut(),
      ...[...this.unkept].map(([why, n]) => `${n} ${n === 1 ? 'picture' : 'pictures'} could not be kept: ${why}`),
    ];
    for (const label of lines) {
      const at = this.relative(clock());
      const data = { label, ok: false };
      this.buffer.push({ id: `e${++this.count}`, lane: 'note', kind: 'recorder', at, clock: 'recorder', data });
    }
  }
}
