import { background, guarded } from '../../core/background.ts';
import { keyOfRequest } from '../../core/contrast/sketch.ts';
import { matchesRequest } from '../../core/trials/request-pattern.ts';
import { slowOutsideMs, type Stressor } from '../../core/trials/stressor.ts';

/** A request that stands still until somebody says what becomes of it. */
export interface Paused {
  id: string;
  method: string;
  url: string;
  /** Its headers, and by which name the browser's own events tell of it; where it is told. */
  headers?: Record<string, string>;
  network?: string;
}

/** What a request is answered in its server's stead. */
export interface GivenAnswer {
  status: number;
  mime?: string;
  body?: string;
}
/** The answer that an attempt got, by the id of its exchange; nothing where it is not kept. */
export type KeptAnswers = (attempt: string, exchange: string) => GivenAnswer | undefined;

/** How a browser lets requests be taken aside. */
export interface RequestGate {
  goOn(id: string, headers?: Record<string, string>): Promise<unknown>;
  cut(id: string): Promise<unknown>;
  answer(id: string, answer: GivenAnswer): Promise<unknown>;
  /** Nothing is taken aside any more; what still stands is let go. */
  close(): Promise<void>;
}

/** What is told of a gate's requests. */
export interface GateListener {
  /** Whether it needs to know what was answered. */
  readonly wantsAnswers: boolean;
  paused(request: Paused): void;
  answered(request: Omit<Paused, 'id'>): void;
}

/** What becomes of a request under the stressors: it goes on, later, after another, or not at all. */
interface Fate {
  afterMs: number;
  until?: string;
  end?: 'cut' | 'never' | GivenAnswer;
}

/** Stressors that take requests aside. */
type OfRequests = Extract<Stressor, { kind: 'hold' | 'hold-until' | 'fail' | 'answer' | 'slow-line' | 'outside' }>;
const ofRequests = new Set<Stressor['kind']>(['hold', 'hold-until', 'fail', 'answer', 'slow-line', 'outside']);
export const takesRequests = (one: Stressor): one is OfRequests => ofRequests.has(one.kind);

/** What a request that should wait for another waits at most: the other may never be asked for, ms. */
const longestHoldMs = 30_000;

/** Takes every request of a trial aside for a moment and decides what becomes of it. Whatever breaks, all are let go. */
export class HeldRequests implements GateListener {
  private gate: RequestGate | undefined;
  private open = true;
  private readonly waiting = new Map<string, { timer?: NodeJS.Timeout; until?: string; end?: Fate['end'] }>();
  readonly wantsAnswers: boolean;
  /** How often a request was made that is given another's answer. */
  private readonly asked = new Map<Stressor, number>();

  private constructor(
    private readonly stressors: readonly OfRequests[],
    private readonly isOwn: (host: string) => boolean,
    private readonly kept: KeptAnswers,
  ) {
    this.wantsAnswers = stressors.some(({ kind }) => kind === 'hold-until');
  }

  /** @throws Error when the browser does not let its requests be taken aside */
  static async start(
    stressors: readonly OfRequests[],
    isOwn: (host: string) => boolean,
    kept: KeptAnswers,
    gate: (listener: GateListener) => Promise<RequestGate>,
  ): Promise<HeldRequests> {
    const held = new HeldRequests(stressors, isOwn, kept);
    held.gate = await gate(held);
    return held;
  }

  paused(request: Paused): void {
    const decided = guarded('deciding about a request', () => {
      if (this.open) this.decide(request);
      return this.open;
    });
    if (decided !== true) this.goOn(request.id);
  }

  private decide(request: Paused): void {
    const { id } = request;
    const { afterMs, until, end } = this.fateOf(request);
    if (end === 'never') this.waiting.set(id, {});
    else if (until !== undefined)
      this.waiting.set(id, { until, end, timer: setTimeout(() => this.goOn(id), longestHoldMs) });
    else if (afterMs > 0) this.waiting.set(id, { end, timer: setTimeout(() => this.goOn(id), afterMs) });
    else this.goOn(id, end);
  }

  private fateOf({ method, url }: Paused): Fate {
    const key = this.keyOf({ method, url });
    const host = hostOf(url);
    const fate: Fate = { afterMs: 0 };
    for (const one of this.stressors)
      switch (one.kind) {
        case 'hold':
          if (matchesRequest(one.request, key)) fate.afterMs += one.ms;
          break;
        case 'hold-until':
          if (matchesRequest(one.request, key)) fate.until = one.until;
          break;
        case 'fail':
          if (matchesRequest(one.request, key))
            fate.end = one.how === 'status' ? { status: one.status ?? 503 } : one.how;
          break;
        case 'answer': {
          if (!matchesRequest(one.request, key)) break;
          const times = (this.asked.get(one) ?? 0) + 1;
          this.asked.set(one, times);
          const answer = times >= (one.from ?? 1) ? this.kept(one.attempt, one.exchange) : undefined;
          if (answer) fate.end = answer;
          break;
        }
        case 'slow-line':
          fate.afterMs += one.ms;
          break;
        case 'outside':
          if (host === '' || this.isOwn(host)) break;
          if (one.how === 'blocked') fate.end = 'cut';
          else fate.afterMs += one.ms ?? slowOutsideMs;
      }
    return fate;
  }

  /** Lets a request come to its end; to the one that was meant for it while stressors hold. */
  private goOn(id: string, end = this.open ? this.waiting.get(id)?.end : undefined): void {
    clearTimeout(this.waiting.get(id)?.timer);
    this.waiting.delete(id);
    if (end === 'cut') this.let(this.gate?.cut(id));
    else if (end !== undefined && end !== 'never') this.let(this.gate?.answer(id, end));
    else this.let(this.gate?.goOn(id));
  }

  answered(request: Omit<Paused, 'id'>): void {
    const key = this.keyOf(request);
    for (const [id, { until }] of [...this.waiting])
      if (until !== undefined && matchesRequest(until, key)) this.goOn(id);
  }

  private let(going: Promise<unknown> | undefined): void {
    // The page may have gone, and its requests with it.
    if (going)
      background(
        'letting a request go',
        going.catch(() => undefined),
      );
  }

  private keyOf({ method, url }: Omit<Paused, 'id'>): string {
    const host = hostOf(url);
    return keyOfRequest({ method, url, host, own: host === '' || this.isOwn(host) });
  }

  /** Lets everything go. */
  async undo(): Promise<void> {
    this.open = false;
    for (const id of [...this.waiting.keys()]) this.goOn(id);
    await this.gate?.close();
  }
}

function hostOf(address: string): string {
  try {
    return new URL(address).host;
  } catch {
    return '';
  }
}
