import type { StepData, StepEvent } from '../../core/evidence/event.ts';
import { stepLabel } from '../../core/evidence/labels.ts';
import { maskMark, type Masker } from '../../core/evidence/masking.ts';
import { clock } from './clock.ts';

/** How long a typed value may wait to learn whether its field is a password field. */
const fieldKnownWithinMs = 1500;
/** The page tells of typing within its flush interval and a frame; this leaves room for a busy machine. */
const keysKnownWithinMs = 600;

const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? (value as unknown[]) : []);

/** The characters an actions body presses, in order; whatever else stands in it is passed over. */
export function keysOf(body: Record<string, unknown>): string {
  return listOf(body.actions)
    .flatMap((source) => listOf((source as { actions?: unknown } | null)?.actions))
    .flatMap((action) => {
      const { type, value } = (action ?? {}) as { type?: unknown; value?: unknown };
      return type === 'keyDown' && typeof value === 'string' ? [value] : [];
    })
    .join('');
}

const withoutInput = (event: StepEvent): StepEvent => ({ ...event, data: { ...event.data, input: maskMark } });

/** The sentence of a step as it is without what was typed. */
const masked = (data: StepData): string =>
  data.action === 'type' ? stepLabel({ ...data, input: maskMark }).replace(`“${maskMark}”`, maskMark) : data.label;

/** Typed secrets that are remembered of an attempt. */
const mostRemembered = 200;

/** Most letters of a secret in pieces that are remembered. */
const longestHeld = 2000;

/** Steps that type: each waits until it is known whether it went into a password field, and is masked accordingly. */
export class TypedValues {
  /** Per lifeline, whether its element is a password field; unknown until the page has spoken. */
  private readonly passwordFields = new Map<string, boolean>();
  private held: { event: StepEvent; line: string; since: number }[] = [];
  private heldKeys: { event: StepEvent; since: number }[] = [];
  /** When the page told of typing in a password field, ms from the start. */
  private readonly secretTyping: number[] = [];

  /** @param ready is given each step once it may be written, masked */
  constructor(
    private readonly masker: Masker,
    private readonly ready: (event: StepEvent) => void,
  ) {}

  /** A field is known to be a password field, or not to be one. */
  know(line: string, isPassword: boolean): void {
    // What was one once stays one: a page may show what is in it.
    if (this.passwordFields.get(line) !== true) this.passwordFields.set(line, isPassword);
  }

  /** What a secret field holds, told by the page or known from what was typed: masked from here on wherever it stands. */
  learn(value: string): void {
    const plain = value.replace(/[\uE000-\uF8FF]/g, '');
    if (plain.length < 3 || plain === maskMark || this.learned.size >= mostRemembered) return;
    this.learned.add(plain);
    this.masker.learn([plain]);
  }
  /** What was taken for a value was only its beginning. */
  unlearn(value: string): void {
    if (this.learned.delete(value)) this.masker.unlearn(value);
  }
  /** Values of secret fields; they live in memory only. */
  readonly learned = new Set<string>();

  /** The page told of typing in a password field. */
  secretAt(at: number): void {
    this.secretTyping.push(at);
  }

  /**
   * A secret may be typed in pieces, a few letters by each command. What so far ends as one begins is held until the
   * next piece tells, or the attempt is over; once they make a secret together, all of them go.
   * @param place they are typed into: pieces of different places make nothing together
   */
  private inPieces(event: StepEvent, place: string, typed: string, go: (event: StepEvent) => void): void {
    const before = this.pieces.get(place);
    const together = (before?.text ?? '') + typed;
    const holds = this.masker.begins(together);
    const events = [...(before?.events ?? []), event];
    this.pieces.delete(place);
    if (holds === 'part' || holds === 'telling')
      this.pieces.set(place, { text: together.slice(-longestHeld), events, go, telling: holds === 'telling' });
    else this.letGo(events, holds === 'whole' && events.length > 1, go);
  }
  private readonly pieces = new Map<
    string,
    { text: string; events: StepEvent[]; go: (event: StepEvent) => void; telling: boolean }
  >();

  /** Pieces that came to nothing each go on their usual way; those of a secret are masked. */
  private letGo(events: readonly StepEvent[], secret: boolean, go: (event: StepEvent) => void): void {
    for (const event of events)
      if (secret) this.ready(this.withoutTyped(event));
      else go(event);
  }

  typed(event: StepEvent, line: string | undefined): void {
    this.inPieces(event, line ?? 'somewhere', event.data.input ?? '', (one) => this.typedWhole(one, line));
  }

  private typedWhole(event: StepEvent, line: string | undefined): void {
    const secret = line === undefined ? undefined : this.passwordFields.get(line);
    if (secret === undefined && line !== undefined) this.held.push({ event, line, since: clock() });
    else this.ready(this.decided(event, secret ?? true));
  }

  /** Keys pressed one by one: held until the page has told whether they went into a password field. */
  pressed(event: StepEvent, keys: string): void {
    this.inPieces(event, 'the keyboard', keys, (one) => this.pressedWhole(one, one.id === event.id ? keys : ' '));
  }

  private pressedWhole(event: StepEvent, keys: string): void {
    const declared = this.masker.text(keys) !== keys;
    if (keys === '' || declared) this.ready(this.masker.value(declared ? withoutInput(event) : event));
    else this.heldKeys.push({ event, since: clock() });
  }

  /** A typed value is written only once it is known not to go into a password field. */
  private decided(event: StepEvent, secret: boolean): StepEvent {
    if (!secret) return this.masker.value(event);
    if (event.data.input !== undefined) this.learn(event.data.input);
    return this.withoutTyped(event);
  }

  private withoutTyped(event: StepEvent): StepEvent {
    return this.masker.value({
      ...event,
      data: {
        ...event.data,
        input: maskMark,
        label: masked(event.data),
      },
    });
  }

  /** Hands on what is known by now, and at the last all the rest, masked. @returns whether anything still waits */
  flush(last: boolean): boolean {
    const now = clock();
    if (last) {
      // Nothing follows that could tell: what gives a secret away by itself is kept as one.
      for (const { events, go, telling } of this.pieces.values()) this.letGo(events, telling, go);
      this.pieces.clear();
    }
    this.held = this.held.filter((typed) => {
      const secret = this.passwordFields.get(typed.line);
      if (secret === undefined && !last && now - typed.since < fieldKnownWithinMs) return true;
      this.ready(this.decided(typed.event, secret ?? true));
      return false;
    });
    this.heldKeys = this.heldKeys.filter(({ event, since }) => {
      if (!last && now - since < keysKnownWithinMs) return true;
      const end = event.until ?? event.at;
      const secret = this.secretTyping.some((at) => at >= event.at - 20 && at <= end + 200);
      this.ready(this.masker.value(secret ? withoutInput(event) : event));
      return false;
    });
    return this.held.length > 0 || this.heldKeys.length > 0;
  }
}
