import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Environment } from '../../core/evidence/attempt.ts';
import { eventsOf, type EvidenceEvent, type Locator } from '../../core/evidence/event.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import type { ObserverRecord } from '../observer/source.ts';
import { elementKey, readCommand } from './commands.ts';
import { AttemptRecorder } from './recorder.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from './sink.ts';

/** A sink that remembers. */
class Memory implements EvidenceSink {
  constructor(private readonly used: readonly Locator[] = []) {}
  request: AttemptRequest | undefined;
  events: EvidenceEvent[] = [];
  batches = 0;
  told: ToldOutcome | undefined;
  address: string | undefined;
  ended: { durationMs: number; interrupted?: string }[] = [];
  newId = (): string => 'a-1';
  begin(_attempt: string, request: AttemptRequest, _environment: Environment): void {
    this.request = request;
  }
  usedBefore = (): readonly Locator[] => this.used;
  /** What writing fails with, as long as it does. */
  full: string | undefined;
  write(_attempt: string, events: readonly EvidenceEvent[]): number {
    if (this.full) throw new Error(this.full);
    this.batches++;
    this.events.push(...events);
    return JSON.stringify(events).length;
  }
  keep = async (bytes: Buffer): Promise<string> => `blob-${bytes.length}`;
  sized(): void {}
  outcome(_attempt: string, told: ToldOutcome): void {
    this.told = told;
  }
  opened(_attempt: string, address: string): void {
    this.address = address;
  }
  end(_attempt: string, durationMs: number, interrupted?: string): void {
    this.ended.push({ durationMs, interrupted });
  }
}

const t0 = 1_000_000;
let sink: Memory;
let recorder: AttemptRecorder;
const start = (request: AttemptRequest = {}, used: readonly Locator[] = []): void => {
  sink = new Memory(used);
  recorder = new AttemptRecorder(sink, request, { browser: 'chromium', version: '156' }, t0);
};
const found = (id: string) => ({ value: { [elementKey]: id } });
const send = (
  method: string,
  path: string,
  body: object = {},
  answer: object = { value: null },
  at = t0 + 10,
  until = t0 + 20,
) => recorder.command(readCommand(method, path), body as never, answer as never, at, until);
const appeared = (locator: string, attrs: Record<string, string> = {}, node = 1): ObserverRecord => ({
  k: 'element',
  t: t0 + 5,
  e: 'appeared',
  l: locator,
  s: { count: 1, node, name: 'Name', attrs },
});

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
  start();
});
afterEach(() => vi.useRealTimers());

describe('steps', () => {
  it('carry times from the attempt’s start, the locator, and the find they hang on', () => {
    const find = send('POST', '/element', { using: 'css selector', value: '#hold' }, found('e7'));
    const press = send('POST', '/element/e7/click', {}, { value: null }, t0 + 30.123, t0 + 41.987);
    expect(press).toMatchObject({
      at: 30.12,
      until: 41.99,
      data: { action: 'press', locator: { using: 'css selector', value: '#hold' }, foundBy: find.id, element: 'e7' },
    });
  });

  it('tell each of several matches apart, and finds inside an element', () => {
    send(
      'POST',
      '/elements',
      { using: 'css selector', value: 'li' },
      { value: [{ [elementKey]: 'e1' }, { [elementKey]: 'e2' }] },
    );
    expect(send('GET', '/element/e2/text', {}, { value: 'two' }).data).toMatchObject({
      locator: { value: 'li', index: 1 },
      result: 'two',
      subject: 'text',
    });
    expect(send('POST', '/element/e1/element', { using: 'tag name', value: 'b' }, found('e3')).data.locator).toEqual({
      using: 'tag name',
      value: 'b',
      within: { using: 'css selector', value: 'li' },
    });
  });

  it('carry the driver’s error', () => {
    const step = send(
      'POST',
      '/element',
      { using: 'css selector', value: '#x' },
      { value: { error: 'no such element', message: 'm', stacktrace: 's' } },
    );
    expect(step.data.error).toEqual({ code: 'no such element', message: 'm' });
  });

  it('shorten what is long, saying how long it was', () => {
    expect(send('GET', '/source', {}, { value: 'x'.repeat(50_000) }).data.result).toMatch(/… \(50000 characters\)$/);
  });

  it('the first opened address names the attempt, every opened host is its own', () => {
    send('POST', '/url', { url: 'http://ferry.test/a' });
    send('POST', '/url', { url: 'http://other.test/b' });
    expect(sink.address).toBe('http://ferry.test/a');
    expect([recorder.isOwn('ferry.test'), recorder.isOwn('other.test'), recorder.isOwn('weather.test')]).toEqual([
      true,
      true,
      false,
    ]);
  });
});

describe('typed values', () => {
  const type = (text: string) => {
    send('POST', '/element', { using: 'css selector', value: '#f' }, found('e1'));
    return send('POST', '/element/e1/value', { text });
  };
  const written = (): string | undefined =>
    eventsOf(sink.events, 'step').find((step) => step.data.action === 'type')?.data.input;

  it('are written when their field is known to be an ordinary one', () => {
    recorder.observed([appeared('css=#f', { type: 'text' })], 'c', 'r');
    type('Ada');
    recorder.flush();
    expect(written()).toBe('Ada');
  });

  it('are masked when it is a password field, in the label too', () => {
    recorder.observed([appeared('css=#f', { type: 'password' })], 'c', 'r');
    type('made-up');
    recorder.flush();
    expect(written()).toBe(maskMark);
    expect(JSON.stringify(sink.events)).not.toContain('made-up');
  });

  it('wait for the observer’s word before they are written', () => {
    type('Ada');
    recorder.flush();
    expect(written()).toBeUndefined();
    recorder.observed([appeared('css=#f', { autocomplete: 'new-password' })], 'c', 'r');
    recorder.flush();
    expect(written()).toBe(maskMark);
  });

  it('are masked when the word never comes', () => {
    type('Ada');
    recorder.flush(true);
    expect(written()).toBe(maskMark);
  });
});

describe('keys pressed one by one', () => {
  const keys = (text: string) =>
    send('POST', '/actions', {
      actions: [
        {
          type: 'key',
          id: 'k',
          actions: [...text].flatMap((value) => [
            { type: 'keyDown', value },
            { type: 'keyUp', value },
          ]),
        },
      ],
    });
  const written = (): string | undefined =>
    eventsOf(sink.events, 'step').find((step) => step.data.action === 'keys')?.data.input;

  it('are written when the page told of no password field', () => {
    keys('Ada');
    recorder.flush(true);
    expect(written()).toContain('"A"');
  });

  it('are masked when they went into one, however late the page says so', () => {
    keys('made-up');
    recorder.flush();
    expect(written()).toBeUndefined();
    recorder.observed([{ k: 'held', t: t0 + 25, d: 'input#code', v: maskMark }], 'c', 'r');
    recorder.flush(true);
    expect(written()).toBe(maskMark);
  });

  it('are masked when together they are a declared secret', () => {
    start({ secrets: ['lantern'] });
    keys('lantern');
    recorder.flush();
    expect(written()).toBe(maskMark);
  });
});

describe('writing', () => {
  it('gathers events and writes them together after a moment', () => {
    for (let i = 0; i < 5; i++) send('GET', '/title', {}, { value: 't' });
    expect(sink.batches).toBe(0);
    vi.advanceTimersByTime(300);
    expect(sink.batches).toBe(1);
    expect(sink.events).toHaveLength(5);
  });

  it('masks declared secrets in everything, and never hands them on', () => {
    start({ secrets: ['lantern-77'], run: 'night of lantern-77' });
    send('POST', '/url', { url: 'http://ferry.test/?q=lantern-77' });
    recorder.add({
      lane: 'console',
      kind: 'line',
      at: t0,
      clock: 'browser',
      data: { level: 'info', text: 'has lantern-77' },
    });
    recorder.outcome({ status: 'failed', message: 'no lantern-77', stack: 'at lantern-77' });
    recorder.flush();
    expect(JSON.stringify([sink.request, sink.events, sink.told, sink.address])).not.toContain('lantern-77');
    expect(sink.request).not.toHaveProperty('secrets');
  });

  it('ends once, with everything written, and takes nothing after', async () => {
    vi.useRealTimers();
    send('GET', '/title', {}, { value: 't' });
    await Promise.all([recorder.end('first'), recorder.end('second')]);
    expect(sink.ended).toHaveLength(1);
    expect(sink.ended[0]!.interrupted).toBe('first');
    expect(sink.events.filter(({ kind }) => kind !== 'machine')).toHaveLength(1);
    send('GET', '/title', {}, { value: 'late' });
    recorder.flush();
    expect(sink.events.filter(({ kind }) => kind !== 'machine')).toHaveLength(1);
  });

  it('took as long as until it was over, however long writing it down takes', async () => {
    vi.useRealTimers();
    let release = (): void => {};
    sink.keep = () => new Promise((done) => (release = () => done('late')));
    void recorder.picture('frame', Buffer.from('x'), 'image/jpeg', t0 + 5, { width: 10, height: 5, scale: 1 });
    setTimeout(() => release(), 30);
    await recorder.end(undefined, t0 + 1234);
    expect(sink.ended[0]!.durationMs).toBe(1234);
  });

  it('waits for pictures on their way', async () => {
    vi.useRealTimers();
    let release = (): void => {};
    sink.keep = () => new Promise((done) => (release = () => done('late')));
    void recorder.picture('frame', Buffer.from('x'), 'image/jpeg', t0 + 5, { width: 10, height: 5, scale: 1 });
    const ending = recorder.end();
    setTimeout(() => release(), 30);
    await ending;
    expect(eventsOf(sink.events, 'screen')[0]!.data).toMatchObject({ blob: 'late', width: 10 });
  });
});

describe('observed', () => {
  it('nodes get one number each over all documents', () => {
    recorder.observed([appeared('css=#a', {}, 1), appeared('css=#b', {}, 2)], 'c', 'first document');
    recorder.observed([appeared('css=#a', {}, 1)], 'c', 'second document');
    recorder.flush();
    expect(eventsOf(sink.events, 'element').map((event) => event.data.state.node)).toEqual([1, 2, 3]);
  });

  it('every kind of record becomes an event of its lane', () => {
    recorder.observed(
      [
        { k: 'mutations', t: t0 + 1, u: t0 + 4, n: 12 },
        { k: 'title', t: t0 + 2, x: 'Ferry' },
        { k: 'press', t: t0 + 3, x: 5, y: 6, d: 'button', b: { x: 0, y: 0, width: 10, height: 10 } },
        { k: 'focus', t: t0 + 4, d: 'input' },
        { k: 'held', t: t0 + 5, d: 'input', v: 'Ada' },
        { k: 'shift', t: t0 + 6, n: 0.1 },
        { k: 'here', t: t0 + 7, x: 'http://ferry.test/' },
      ],
      'c',
      'r',
    );
    recorder.flush();
    expect(sink.events.map((event) => event.kind)).toEqual([
      'mutations',
      'title',
      'press',
      'focus',
      'held-value',
      'layout-shift',
    ]);
    expect(sink.events[0]).toMatchObject({ at: 1, until: 4, data: { count: 12 } });
  });
});

it('shows no part of a secret that looks like the path of a file', () => {
  send('POST', '/element', { using: 'css selector', value: '#code' }, found('e1'));
  recorder.observed([appeared('css=#code', { type: 'password' })], 'w1', 'r1');
  send('POST', '/element/e1/value', { text: '/lodos/made-up.key' });
  recorder.flush();
  expect(JSON.stringify(sink.events)).not.toContain('made-up');
});

it('a field that its page calls secret is one, whatever its type is just now', () => {
  send('POST', '/element', { using: 'css selector', value: '#code' }, found('e1'));
  recorder.observed([{ ...appeared('css=#code', { type: 'text' }), h: true } as ObserverRecord], 'w1', 'r1');
  send('POST', '/element/e1/value', { text: 'Iskele-4821' });
  recorder.flush();
  expect(JSON.stringify(sink.events)).not.toContain('4821');
});

describe('what the test looked for in attempts before', () => {
  const hold: Locator = { using: 'css selector', value: '#hold' };
  const seen = (): string[] => {
    recorder.flush();
    return eventsOf(sink.events, 'element').map((event) => `${event.at} ${event.kind} ${event.data.locator}`);
  };

  it('is told from its start once the test asks for it, and not before', () => {
    start({}, [hold]);
    recorder.observed([appeared('css=#hold'), { ...appeared('css=#other'), t: t0 + 6 }], 'w1', 'r1');
    expect(seen()).toEqual(['6 appeared css=#other']);
    recorder.asksFor('css=#hold');
    recorder.observed([{ ...appeared('css=#hold'), e: 'changed', t: t0 + 90 } as ObserverRecord], 'w1', 'r1');
    expect(seen()).toEqual(['5 appeared css=#hold', '6 appeared css=#other', '90 changed css=#hold']);
  });

  it('leaves nothing behind in an attempt that never asks', async () => {
    start({}, [hold]);
    recorder.observed([appeared('css=#hold')], 'w1', 'r1');
    await recorder.end();
    expect(seen()).toEqual([]);
  });

  it('is forgotten from its beginning when too much became of it', () => {
    start({}, [hold]);
    for (let i = 0; i < 1000; i++) recorder.observed([{ ...appeared('css=#hold'), t: t0 + i }], 'w1', 'r1');
    recorder.asksFor('css=#hold');
    const kept = seen();
    expect(kept).toHaveLength(400);
    expect(kept.at(-1)).toBe('999 appeared css=#hold');
  });

  it('tells of a password field before anything is typed into it', () => {
    start({}, [hold]);
    recorder.observed([appeared('css=#hold', { type: 'password' })], 'w1', 'r1');
    send('POST', '/element', { using: 'css selector', value: '#hold' }, found('e1'));
    send('POST', '/element/e1/value', { text: 'lodos' });
    recorder.flush();
    const typed = eventsOf(sink.events, 'step').find(({ data }) => data.action === 'type');
    expect(typed!.data.input).toBe(maskMark);
  });
});

describe('a secret typed in pieces', () => {
  const field = { [elementKey]: 'field-1' };
  const typedInto = (text: string, at: number): void => {
    send('POST', '/element/field-1/value', { text }, { value: null }, t0 + at, t0 + at + 5);
  };
  const keys = (text: string, at: number): void => {
    const actions = [{ type: 'key', id: 'k', actions: [...text].map((value) => ({ type: 'keyDown', value })) }];
    send('POST', '/actions', { actions }, { value: null }, t0 + at, t0 + at + 5);
  };
  const stored = (): string => JSON.stringify(sink.events);
  const begin = (): void => {
    start({ secrets: ['lantern-77'] });
    send('POST', '/element', { using: 'css selector', value: '#f' }, { value: field });
    recorder.observed([appeared('css=#f', { type: 'text' })], 'c', 'r');
  };

  it('is masked in all of them, by field and by key', async () => {
    begin();
    ['lan', 'tern', '-7', '7'].forEach((piece, i) => typedInto(piece, 100 + i * 10));
    [...'lantern-77'].forEach((key, i) => keys(key, 300 + i * 10));
    await recorder.end();
    expect(stored()).not.toMatch(/lan[^e]|tern|-7/);
    expect(eventsOf(sink.events, 'step').filter(({ data }) => data.input === maskMark)).toHaveLength(14);
  });

  it('leaves what only began like one, and what begins and gives nothing away', async () => {
    begin();
    typedInto('la', 100);
    typedInto('goon', 120);
    typedInto('Stella', 140);
    await recorder.end();
    const typed = eventsOf(sink.events, 'step').filter(({ data }) => data.action === 'type');
    expect(typed.map(({ data }) => data.input)).toEqual(['la', 'goon', 'Stella']);
  });

  it('is masked where nothing came after what gives it away', async () => {
    begin();
    typedInto('lantern', 100);
    await recorder.end();
    expect(stored()).not.toContain('lantern');
  });
});

describe('what a client sends that makes no sense', () => {
  it.each([
    ['/actions', { actions: [null] }],
    ['/actions', { actions: [{ actions: [null, 7, { type: 'keyDown', value: {} }] }] }],
    ['/actions', { actions: { length: 3 } }],
    ['/url', { url: { toString: 1 } }],
    ['/element', { using: [], value: {} }],
    ['/element/x/value', { text: null, value: [{ toString: null }] }],
    ['/frame', { id: true }],
    ['/window', { handle: { valueOf: 1 } }],
    ['/execute/sync', { script: { a: 1 }, args: 'none' }],
    ['/alert/text', { text: ['a'] }],
    ['/timeouts', { implicit: 'long' }],
  ])('%s %j is recorded all the same', async (path, body) => {
    expect(() => send('POST', path, body)).not.toThrow();
    await recorder.end();
    expect(eventsOf(sink.events, 'step')).toHaveLength(1);
  });
});

describe('an attempt that cannot be written', () => {
  it('is kept while the disk is full, and whole once it is not', async () => {
    sink.full = 'database or disk is full';
    send('GET', '/title');
    vi.advanceTimersByTime(300);
    send('GET', '/url');
    vi.advanceTimersByTime(3000);
    expect(sink.events).toHaveLength(0);
    sink.full = undefined;
    vi.advanceTimersByTime(1000);
    const ended = recorder.end();
    await vi.advanceTimersByTimeAsync(3000);
    await ended;
    expect(eventsOf(sink.events, 'step').map(({ data }) => data.command)).toEqual(['get title', 'get current url']);
    expect(sink.ended).toEqual([{ durationMs: expect.any(Number) as number, interrupted: undefined }]);
  });

  it('says what could not be kept of its pictures', async () => {
    sink.keep = () => Promise.reject(new Error("ENOSPC: no space left on device, write '/data/blobs/x'"));
    await recorder.picture('frame', Buffer.from('x'), 'image/jpeg', t0 + 3, { width: 1, height: 1, scale: 1 });
    await recorder.end();
    const [note] = eventsOf(sink.events, 'note');
    expect(note?.data.label).toMatch(/^1 picture could not be kept: ENOSPC: no space left on device/);
    expect(note?.data.label).not.toContain('/data');
  });
});
