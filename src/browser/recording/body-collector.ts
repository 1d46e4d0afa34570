import { background } from '../../core/background.ts';
import type { NetworkData } from '../../core/evidence/event.ts';
import type { AttemptRecorder } from './recorder.ts';

type Send = <R>(method: string, params: Record<string, unknown>) => Promise<R>;

interface Wanted {
  request: string;
  exchange: string;
  of: 'request' | 'response';
  mime: string;
}

/** What BiDi gives as the content of a body. */
interface NetworkBytes {
  bytes: { type: 'string' | 'base64'; value: string };
}

/** Larger bodies than this are not kept by the browser for us, bytes. */
const largestBody = 4 * 1024 * 1024;
/** What a browser is asked to keep for us. */
export const keptBodies = { dataTypes: ['request', 'response'], maxEncodedDataSize: largestBody };
/** A body that was not given by then will not be, ms. */
const longestMs = 5000;
/** Bodies asked for of one attempt; more are a stream of data, not a test's. */
const mostBodies = 400;

/** What a page works with: its documents, what it fetches, and its forms. */
const kinds: ReadonlySet<string> = new Set(['document', 'fetch', 'xhr', 'other', 'ping', 'beacon', '']);
const readable =
  /\bjson\b|\+json|^text\/(?!css|javascript)|\bxml\b|x-www-form-urlencoded|graphql|multipart\/form-data/i;

/**
 * Gets the bodies of the application's own documents, fetches and forms out of the browser. It keeps them; they are
 * asked for while the test is silent, and what is left at its end.
 */
export class BodyCollector {
  private readonly wanted: Wanted[] = [];
  private asked = 0;
  private draining = false;
  private works = false;

  constructor(
    private readonly send: Send,
    private readonly recorder: () => AttemptRecorder | undefined,
    /** Whether the test waits for the browser just now. */
    private readonly busy: () => boolean,
  ) {}

  /** Has the browser keep bodies from now on. Settles without them where it cannot. */
  async start(): Promise<void> {
    await this.send<{ collector?: string }>('network.addDataCollector', keptBodies).then(
      ({ collector }) => {
        this.works = true;
        this.collector = collector;
      },
      () => undefined,
    );
  }
  private collector: string | undefined;

  /** Has it keep none any more. */
  stop(): void {
    const { collector } = this;
    this.works = false;
    this.collector = undefined;
    this.wanted.length = 0;
    if (collector !== undefined)
      background(
        'letting go of bodies',
        this.send('network.removeDataCollector', { collector }).catch(() => undefined),
      );
  }

  /** An exchange is over: what of it is worth keeping is wanted from now on. */
  over(exchange: string, data: NetworkData): void {
    if (
      !this.works ||
      !this.recorder()?.keepsBodies ||
      !data.own ||
      !kinds.has(data.type ?? '') ||
      this.asked >= mostBodies
    )
      return;
    const { request, method, status, mime = '' } = data;
    const sent = data.requestHeaders && headerOf(data.requestHeaders, 'content-type');
    if (method !== 'GET' && method !== 'HEAD' && method !== 'OPTIONS')
      this.wants({ request, exchange, of: 'request', mime: sent ?? '' });
    const whole = data.bodyEnd === undefined && data.failed === undefined && method !== 'HEAD';
    const redirected = status !== undefined && status >= 300 && status < 400;
    if (whole && status !== undefined && status !== 204 && !redirected && readable.test(mime))
      this.wants({ request, exchange, of: 'response', mime });
  }

  private wants(one: Wanted): void {
    this.asked++;
    this.wanted.push(one);
  }

  /** The test is silent for a moment: asks for bodies one by one, until it goes on. */
  idle(): void {
    if (this.draining || !this.wanted.length) return;
    background('getting bodies', this.drain(Infinity));
  }

  /** Gets what is left, for as long as is given. */
  async finish(limitMs: number): Promise<void> {
    await this.drain(performance.now() + limitMs);
    this.wanted.length = 0;
  }

  /** For the next attempt of the same browser. */
  forget(): void {
    this.wanted.length = 0;
    this.asked = 0;
  }

  private async drain(until: number): Promise<void> {
    const last = until !== Infinity;
    this.draining = true;
    try {
      while (this.wanted.length && (last ? performance.now() < until : !this.busy()))
        await this.get(this.wanted.shift()!, Math.min(longestMs, until - performance.now()));
    } finally {
      this.draining = false;
    }
  }

  private async get({ request, exchange, of, mime }: Wanted, limitMs: number): Promise<void> {
    const recorder = this.recorder();
    // A body the browser no longer has, or that was empty, is no fault. Of a page that is gone nothing is answered at all.
    const got = await Promise.race([
      this.send<NetworkBytes>('network.getData', { dataType: of, request }).catch(() => undefined),
      new Promise<undefined>((done) => setTimeout(done, limitMs)),
    ]);
    const text = got && textOf(got);
    if (text) recorder?.body({ exchange, of, mime, text, length: text.length });
  }
}

/** Bytes as text; nothing for what is no text. */
function textOf({ bytes }: NetworkBytes): string | undefined {
  if (bytes.type === 'string') return bytes.value;
  const text = Buffer.from(bytes.value, 'base64').toString('utf8');
  return text.includes('\u0000') || text.includes('\uFFFD') ? undefined : text;
}

const headerOf = (headers: Record<string, string>, name: string): string | undefined =>
  Object.entries(headers).find(([key]) => key.toLowerCase() === name)?.[1];
