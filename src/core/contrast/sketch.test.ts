import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import {
  check,
  css,
  element,
  exchange,
  facts,
  line,
  page,
  press,
  reads,
  step,
  url,
  windowEvent,
} from '../evidence/samples.ts';
import { plainPath, requestKey, sketchOf, type Sketch } from './sketch.ts';

/** What a sketch keeps of an attempt, on small ones. */

const find = (at: number, locator: string): EvidenceEvent =>
  step(at, at + 5, { action: 'find', command: 'find element', locator: css(locator) });
const drawn = (events: EvidenceEvent[], more: Partial<Parameters<typeof sketchOf>[1]> = {}): Sketch =>
  sketchOf(prepare(events, facts('passed')), { id: 'a', startedAt: 7, ...more });

describe('steps of a sketch', () => {
  it('are one for a find and the use of what it found, which lasts from the one to the other', () => {
    const found = find(10, '#go');
    const [one, ...rest] = drawn([found, press(40, '#go', { foundBy: found.id })]).steps;
    expect(rest).toEqual([]);
    expect(one).toMatchObject({ sig: 'press css=#go', action: 'press', at: 10, until: 50 });
    expect(one!.events[1]).toBe(found.id);
  });

  it('are two where something else was done in between, or nothing with it', () => {
    const found = find(10, '#go');
    expect(
      drawn([found, press(40, '#other'), press(60, '#go', { foundBy: found.id })]).steps.map(({ sig }) => sig),
    ).toEqual(['find css=#go', 'press css=#other', 'press css=#go']);
  });

  it('are one for a wait, with how often it tried, and equal to a single read of the same', () => {
    const waited = drawn([0, 100, 200, 300].map((at) => reads(at, at < 300 ? '…' : '412')));
    expect(waited.steps).toHaveLength(1);
    expect(waited.steps[0]).toMatchObject({ polls: 4, at: 0 });
    expect(waited.steps[0]!.sig).toBe(drawn([reads(0, '412')]).steps[0]!.sig);
  });

  it('leave out pictures and settings, and what was typed does not belong to what was done', () => {
    const typed = (input: string) =>
      step(50, 60, { action: 'type', command: 'element send keys', locator: css('#who'), input });
    const one = drawn([
      step(0, 9, { action: 'picture', command: 'take screenshot' }),
      typed('Ada'),
      step(70, 72, { action: 'settings', command: 'set timeouts' }),
    ]);
    expect(one.steps).toHaveLength(1);
    expect(one.steps[0]!.sig).toBe(drawn([typed('Berk')]).steps[0]!.sig);
    expect(one.steps[0]!.input).toBe('Ada');
  });

  it('know the error, the value and the state of their target, and since when it was so', () => {
    const { steps } = drawn([
      element(10, 'appeared', 'css=#out', { node: 1, count: 2, text: '…', visible: true }),
      element(60, 'changed', 'css=#out', { node: 1, count: 2, text: '412', visible: true }),
      element(90, 'moved', 'css=#out', { node: 1, count: 2, text: '412', visible: true }),
      reads(100, '412'),
      press(200, '#go', { error: { code: 'no such element', message: 'x' } }),
    ]);
    expect(steps[0]).toMatchObject({ value: '412', presence: 'visible', matches: 2, text: '412', since: 60 });
    expect(steps[1]).toMatchObject({ error: 'no such element' });
    expect(steps[1]!.value).toBeUndefined();
  });

  it('know whether the field held what was typed', () => {
    const typed = step(50, 60, { action: 'type', command: 'element send keys', locator: css('#who'), input: 'Ada' });
    const held = (text: string) =>
      drawn([
        typed,
        page(58, 'held-value', { label: 'input', text: 'A' }),
        page(61, 'held-value', { label: 'input', text }),
      ]).steps[0]!.held;
    expect(held('Ada')).toBe(true);
    expect(held('A')).toBe(false);
    expect(drawn([typed]).steps[0]!.held).toBeUndefined();
  });
});

describe('the page a step spoke to', () => {
  it('is the one that its window showed, with its title, without what varies in its address', () => {
    const { steps } = drawn([
      page(5, 'navigation-committed', { address: `${url}/sailings/e-1840?day=3`, context: 'one' }),
      page(6, 'title', { title: 'Sailing', context: 'one' }),
      page(50, 'navigation-committed', { address: `${url}/map`, context: 'two' }),
      press(100, '#a', { context: 'one' }),
      press(200, '#b', { context: 'two' }),
    ]);
    expect(steps.map((one) => [one.page, one.title])).toEqual([
      ['/sailings/#', 'Sailing'],
      ['/map', undefined],
    ]);
  });

  it('keeps the fragment, which single pages go by, and forgets the title of the page before', () => {
    const { steps } = drawn([
      page(5, 'navigation-committed', { address: `${url}/shop` }),
      page(6, 'title', { title: 'Shop' }),
      page(50, 'fragment', { address: `${url}/shop#paid` }),
      press(60, '#a'),
      page(70, 'navigation-committed', { address: `${url}/account` }),
      press(80, '#b'),
    ]);
    expect(steps.map((one) => [one.page, one.title])).toEqual([
      ['/shop#paid', 'Shop'],
      ['/account', undefined],
    ]);
  });

  it('and its window, by the order in which they opened', () => {
    const { steps, windows } = drawn([
      windowEvent(0, 'opened', { context: 'one', address: 'about:blank' }),
      windowEvent(50, 'opened', { context: 'two', address: `${url}/map` }),
      press(60, '#a', { context: 'two' }),
      press(80, '#b', { context: 'frame' }),
    ]);
    expect(steps.map(({ window: index }) => index)).toEqual([1, -1]);
    expect(windows.map(({ address }) => address)).toEqual(['about:blank', `${url}/map`]);
  });
});

describe('requests under way', () => {
  it('are kept at each step with how long they still were, and not those that had ended', () => {
    const { steps } = drawn([
      exchange(10, 90, { url: `${url}/a` }),
      exchange(20, 400, { url: `${url}/api/fare/12` }),
      press(100),
      press(300, '#b'),
      press(500, '#c'),
    ]);
    expect(steps.map(({ inFlight }) => inFlight)).toEqual([{ 'GET /api/fare/#': 300 }, { 'GET /api/fare/#': 100 }, {}]);
  });

  it('do not count a page that has begun to stand there', () => {
    const { steps } = drawn([
      exchange(10, 400, { url: `${url}/long`, type: 'document' }),
      press(50, '#before'),
      page(60, 'navigation-committed', { address: `${url}/long` }),
      press(100, '#after'),
    ]);
    expect(steps.map(({ inFlight }) => Object.keys(inFlight))).toEqual([['GET /long'], []]);
  });

  it('are kept whole besides, with how they ended', () => {
    const { requests } = drawn([
      exchange(0, 10, { url: `${url}/a` }),
      exchange(0, 10, { url: `${url}/b`, status: 503 }),
      exchange(0, 10, { url: `${url}/c`, status: 0, failed: 'connection refused' }),
      exchange(0, 10, { url: `${url}/d`, status: 0, failed: 'still under way when the attempt ended' }),
    ]);
    expect(requests.map(({ key, ended }) => [key, ended])).toEqual([
      ['GET /a', '2xx'],
      ['GET /b', '5xx'],
      ['GET /c', 'failed'],
      ['GET /d', 'open'],
    ]);
  });
});

describe('names without what varies', () => {
  it.each([
    ['http://ferry.test/api/fare/e-1840?x=1', '/api/fare/#'],
    ['http://ferry.test/', '/'],
    ['http://ferry.test', '/'],
    ['https://ferry.test/users/7/seats#top', '/users/#/seats'],
    ['/plain/path', '/plain/path'],
    ['http://ferry.test/blob/3f9a2c11d0', '/blob/#'],
    ['http://ferry.test/v2/x', '/v2/x'],
  ])('%s is %s', (address, path) => expect(plainPath(address)).toBe(path));

  it('begin with the path and never hold a query, whatever the address', () => {
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (address) => {
        expect(plainPath(address)).toMatch(/^\/[^?]*$/);
      }),
    );
  });

  it('of requests tell outside hosts, without their ports', () => {
    const key = (data: Parameters<typeof exchange>[2]): string => {
      const event = exchange(0, 1, data);
      return event.lane === 'network' ? requestKey(event) : '';
    };
    expect(key({ url: `${url}/api/x` })).toBe('GET /api/x');
    expect(key({ url: 'http://bank.test:81/pay', host: 'bank.test:81', own: false, method: 'POST' })).toBe(
      'POST bank.test /pay',
    );
  });
});

describe('what else a sketch keeps', () => {
  it('is lines, checks, dialogs and what pages were made of, each by the event that shows it', () => {
    const events = [
      page(2, 'navigation-committed', { address: `${url}/shop` }),
      page(20, 'mutations', { count: 4 }),
      line(30, 'seat 12 drawn'),
      page(40, 'structure', { address: `${url}/shop`, blob: 'b1' }),
      page(90, 'structure', { address: `${url}/shop`, blob: 'b2' }),
      check(95, false, '442', '412'),
      windowEvent(96, 'dialog-opened', { context: 'one', text: 'Leave?' }),
    ];
    const one = drawn(events, { commit: 'c0ffee', neighbours: { beside: ['x'] } });
    expect(one).toMatchObject({ id: 'a', startedAt: 7, commit: 'c0ffee', neighbours: { beside: ['x'] }, until: 96 });
    expect(one.console).toMatchObject([{ level: 'info', at: 30, text: 'seat 12 drawn' }]);
    expect(one.checks).toMatchObject([{ ok: false, expected: '442', actual: '412' }]);
    expect(one.dialogs).toMatchObject([{ text: 'Leave?' }]);
    // Of a page its first coming to rest, at the time it last changed before.
    expect(one.structures).toMatchObject([{ page: '/shop', blob: 'b1', at: 20 }]);
    const ids = new Set(events.map(({ id }) => id));
    for (const list of [one.console, one.checks, one.dialogs, one.structures])
      for (const { event } of list) expect(ids).toContain(event);
  });

  it('is the pace of plain finds and reads, and nothing of an attempt without any', () => {
    expect(drawn([reads(0, 'a', '#a'), reads(50, 'b', '#b'), find(90, '#c')]).pace).toEqual({ ms: 6, count: 3 });
    expect(drawn([press(10)]).pace).toBeUndefined();
  });

  it('of an empty attempt is empty', () => {
    expect(drawn([])).toMatchObject({ steps: [], requests: [], console: [], until: 0 });
  });

  it('does not depend on the order in which events are given', () => {
    const events = [
      find(10, '#go'),
      press(40),
      exchange(20, 400, { url: `${url}/a` }),
      page(5, 'navigation-committed', { address: `${url}/x` }),
      reads(60, 'v'),
    ];
    fc.assert(
      fc.property(fc.shuffledSubarray(events, { minLength: events.length }), (shuffled) => {
        expect(drawn(shuffled)).toEqual(drawn(events));
      }),
    );
  });
});
