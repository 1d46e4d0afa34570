import type { Environment } from '../../core/evidence/attempt.ts';
import type { ElementState, EvidenceEvent, Locator, StepEvent } from '../../core/evidence/event.ts';
import { createMasker, maskMark, type Masker } from '../../core/evidence/masking.ts';
import { locatorKey, locatorText } from '../../core/evidence/locator.ts';
import type { ObserverRecord } from '../observer/source.ts';
import type { CommandCall } from './commands.ts';
import type { FieldHeld } from './field-look.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from './sink.ts';
import { answerStep, askedStep, locatorOf, type KnownElement } from './steps.ts';

type Unnumbered = EvidenceEvent extends infer E ? (E extends EvidenceEvent ? Omit<E, 'id'> : never) : never;

/** Wall clock in ms with fractions, from the steady clock, so that durations never run backwards. */
export const clock = (): number => performance.timeOrigin + performance.now();

/** Evidence lies in memory this long at most; what a killed server loses is no more than this. */
const flushEveryMs = 250;
/** How long a typed value may wait to learn whether its field is a password field. */
const fieldKnownWithinMs = 1500;

/** The page tells of typing within its flush interval and a frame; this leaves room for a busy machine. */
const keysKnownWithinMs = 600;

/** Most changes kept of a locator that the test has not asked for yet; of more, the last. */
const mostEarly = 400;

/** The characters an actions body presses, in order. */
function keysOf(body: Record<string, unknown>): string {
  const sources = Array.isArray(body.actions)
    ? (body.actions as { actions?: { type?: string; value?: string }[] }[])
    : [];
  return sources
    .flatMap((source) => (Array.isArray(source.actions) ? source.actions : []))
    .flatMap(({ type, value }) => (type === 'keyDown' && typeof value === 'string' ? [value] : []))
    .join('');
}

const withoutInput = (event: StepEvent): StepEvent => ({ ...event, data: { ...event.data, input: maskMark } });

/** Collects the evidence of one attempt and hands it on, masked, in batches. */
export class AttemptRecorder {
  readonly id: string;
  readonly startedAt: number;
  private readonly masker: Masker;
  private readonly elements = new Map<string, KnownElement>();
  /** Per lifeline, whether its element is a password field; unknown until the observer has spoken. */
  private readonly passwordFields = new Map<string, boolean>();
  private readonly ownHosts = new Set<string>();
  private readonly nodes = new Map<string, number>();
  /** What the test used in attempts before and is watched already, though nobody has asked for it yet. */
  readonly expected: readonly Locator[];
  /** By key of a locator that is expected: what became of it so far. Written once the test asks for it. */
  private readonly early = new Map<string, Unnumbered[]>();
  private buffer: EvidenceEvent[] = [];
  /** Typed values that wait for the observer's word, by lifeline. */
  private held: { event: StepEvent; line: string; since: number }[] = [];
  private heldKeys: { event: StepEvent; since: number }[] = [];
  /** When the page told of typing in a password field, ms from the start. */
  private readonly secretTyping: number[] = [];
  private count = 0;
  private opened = false;
  private timer: NodeJS.Timeout | undefined;
  private ended = false;
  private pending = 0;

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
    const { secrets: _never, ...kept } = request;
    this.id = sink.begin(this.masker.value(kept), environment, startedAt, this.masker);
    this.startedAt = startedAt;
    this.expected = sink.usedBefore?.(this.id) ?? [];
    for (const locator of this.expected) this.early.set(locatorKey(locator), []);
  }

  /** Adds an event; `at` and `until` are wall-clock ms here, and relative in the store. */
  add(event: Unnumbered): string {
    const id = `e${++this.count}`;
    if (this.ended) return id;
    const relative = {
      ...event,
      id,
      at: this.relative(event.at),
      ...(event.until === undefined ? {} : { until: this.relative(event.until) }),
    };
    this.buffer.push(this.masker.value(relative as EvidenceEvent));
    this.schedule();
    return id;
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
    extra: Partial<StepEvent['data']> = {},
  ): StepEvent {
    const id = `e${++this.count}`;
    const data = { ...askedStep(call, body, this.elements), ...extra };
    answerStep(data, id, answer, this.elements);
    const event: StepEvent = {
      id,
      lane: 'step',
      kind: 'command',
      at: this.relative(at),
      until: this.relative(until),
      clock: 'recorder',
      data,
    };
    if (this.ended) return event;
    if (data.action === 'open' && data.input) this.opens(data.input);
    const line = data.action === 'type' && data.locator ? locatorKey(data.locator) : undefined;
    if (data.action === 'type') this.typed(event, line);
    else if (data.action === 'keys') this.pressed(event, keysOf(body));
    else this.buffer.push(this.masker.value(event));
    this.schedule();
    return event;
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

  private typed(event: StepEvent, line: string | undefined): void {
    const secret = line === undefined ? undefined : this.passwordFields.get(line);
    if (secret === undefined && line !== undefined) this.held.push({ event, line, since: clock() });
    else this.buffer.push(this.decided(event, secret ?? true));
  }

  /** Keys pressed one by one: held until the page has told whether they went into a password field. */
  private pressed(event: StepEvent, keys: string): void {
    const declared = this.masker.text(keys) !== keys;
    if (keys === '' || declared) this.buffer.push(this.masker.value(declared ? withoutInput(event) : event));
    else this.heldKeys.push({ event, since: clock() });
  }

  /** A typed value is written only once it is known not to go into a password field. */
  private decided(event: StepEvent, secret: boolean): StepEvent {
    if (!secret) return this.masker.value(event);
    return this.masker.value({
      ...event,
      data: {
        ...event.data,
        input: maskMark,
        label: event.data.label.replace(/^(?:Type|Choose file) “.*?” in/, `Type ${maskMark} in`),
      },
    });
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
    this.sink.opened(this.id, this.masker.text(address));
  }

  isOwn(host: string): boolean {
    return this.ownHosts.has(host);
  }

  /** What a field was found to hold right after it was typed into, where no observer tells. */
  fieldHeld(element: string, { secret, value }: FieldHeld, at: number): void {
    const locator = this.elements.get(element)?.locator;
    if (!locator) return;
    this.passwordFields.set(locatorKey(locator), secret);
    this.add({
      lane: 'page',
      kind: 'held-value',
      at,
      clock: 'recorder',
      data: { label: locatorText(locator), text: secret ? maskMark : value },
    });
  }

  /** What the in-page observer told of one document. */
  observed(records: readonly ObserverRecord[], context: string, realm: string): void {
    for (const record of records) this.observe(record, context, realm);
  }

  private observe(record: ObserverRecord, context: string, realm: string): void {
    const base = { clock: 'page', at: record.t };
    switch (record.k) {
      case 'element': {
        const state = this.named(record.s as unknown as ElementState, realm);
        const type = state.attrs?.type;
        if (state.node !== null)
          this.passwordFields.set(record.l, type === 'password' || /password/.test(state.attrs?.autocomplete ?? ''));
        const event = {
          ...base,
          lane: 'element',
          kind: record.e,
          data: {
            locator: record.l,
            label: state.name ?? '',
            context,
            state,
            ...(record.c ? { changed: record.c } : {}),
          },
        } as Unnumbered;
        const early = this.early.get(record.l);
        if (!early) this.add(event);
        else if (early.push(event) > mostEarly) early.shift();
        break;
      }
      case 'mutations':
        this.add({ ...base, until: record.u, lane: 'page', kind: 'mutations', data: { count: record.n, context } });
        break;
      case 'title':
        this.add({ ...base, lane: 'page', kind: 'title', data: { title: record.x, context } });
        break;
      case 'press':
        this.add({
          ...base,
          lane: 'page',
          kind: 'press',
          data: {
            x: record.x,
            y: record.y,
            label: record.d,
            box: record.b,
            context,
            ...(record.f === undefined ? {} : { offset: record.f }),
          },
        });
        break;
      case 'view':
        this.ratio = record.r;
        break;
      case 'structure':
        void this.structure(record, context);
        break;
      case 'focus':
        this.add({ ...base, lane: 'page', kind: 'focus', data: { label: record.d, context } });
        break;
      case 'held':
        if (record.v === maskMark) this.secretTyping.push(this.relative(record.t));
        this.add({ ...base, lane: 'page', kind: 'held-value', data: { label: record.d, text: record.v, context } });
        break;
      case 'shift':
        this.add({ ...base, lane: 'page', kind: 'layout-shift', data: { value: record.n, context } });
        break;
    }
  }

  /** Node numbers are counted per document in the page; here each node gets one of the attempt. */
  private named(state: ElementState, realm: string): ElementState {
    if (state.node === null) return state;
    const key = `${realm}/${state.node}`;
    let number = this.nodes.get(key);
    if (number === undefined) this.nodes.set(key, (number = this.nodes.size + 1));
    return { ...state, node: number };
  }

  /** What a document was made of: kept masked as a blob, told as an event. */
  private async structure(record: { t: number; x: string; u: string; n: number }, context: string): Promise<void> {
    if (this.ended) return;
    this.pending++;
    try {
      const blob = await this.sink.keep(Buffer.from(this.masker.text(record.x)), 'text/html');
      this.add({
        lane: 'page',
        kind: 'structure',
        at: record.t,
        clock: 'page',
        data: { blob, address: record.u, count: record.n, context },
      });
    } finally {
      this.pending--;
    }
  }

  /** Picture pixels to one CSS pixel of the windows of this session, as their pages tell. */
  private ratio = 1;

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
    if (this.ended) return;
    this.pending++;
    try {
      const blob = await this.sink.keep(bytes, mime);
      this.add({
        lane: 'screen',
        kind,
        at,
        clock: kind === 'frame' ? 'browser' : 'recorder',
        data: { blob, mime, ...size, ...(context ? { context } : {}) },
      });
    } finally {
      this.pending--;
    }
  }

  outcome(told: ToldOutcome): void {
    this.sink.outcome(this.id, {
      ...told,
      message: this.masker.text(told.message),
      stack: this.masker.text(told.stack),
    });
  }

  private schedule(): void {
    this.timer ??= setTimeout(() => this.flush(), flushEveryMs);
  }

  /** Writes what has gathered. Typed values whose field stays unknown are masked. */
  flush(last = false): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const now = clock();
    this.held = this.held.filter((typed) => {
      const secret = this.passwordFields.get(typed.line);
      if (secret === undefined && !last && now - typed.since < fieldKnownWithinMs) return true;
      this.buffer.push(this.decided(typed.event, secret ?? true));
      return false;
    });
    this.heldKeys = this.heldKeys.filter(({ event, since }) => {
      if (!last && now - since < keysKnownWithinMs) return true;
      const end = event.until ?? event.at;
      const secret = this.secretTyping.some((at) => at >= event.at - 20 && at <= end + 200);
      this.buffer.push(this.masker.value(secret ? withoutInput(event) : event));
      return false;
    });
    if (this.buffer.length) {
      const batch = this.buffer;
      this.buffer = [];
      this.sink.write(this.id, batch);
    }
    if (this.held.length || this.heldKeys.length) this.schedule();
  }

  /** Ends the recording once; later calls do nothing. */
  async end(interrupted?: string): Promise<void> {
    if (this.ended) return;
    const durationMs = this.relative(clock());
    for (let i = 0; this.pending > 0 && i < 100; i++) await new Promise((done) => setTimeout(done, 10));
    if (this.ended) return;
    this.flush(true);
    this.ended = true;
    clearTimeout(this.timer);
    this.sink.end(this.id, durationMs, interrupted);
  }
}
