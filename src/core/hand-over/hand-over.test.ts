import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ConsoleData, EvidenceEvent } from '../evidence/event.ts';
import { locatorKey } from '../evidence/locator.ts';
import { css, element, exchange, step } from '../evidence/samples.ts';
import { verdictOf } from '../families/verdict.ts';
import type { Attempt } from '../records.ts';
import { handOverOf, picturesOf, targetAt, type Grounds } from './gather.ts';
import { parts, without, type HandOver } from './hand-over.ts';
import { writeHtml } from './html.ts';
import { writeMarkdown, writeText } from './markdown.ts';

const failing = step(1200, 1260, {
  action: 'press',
  label: 'Press on “Hold seat”',
  locator: css('#hold'),
  error: { code: 'stale element reference', message: 'stale element not found\n  (Session info: chrome=1)' },
});
const read = (at: number): EvidenceEvent => step(at, at + 5, { action: 'read', label: 'Read text of “.fare”' });
const said = (at: number, level: ConsoleData['level'], text: string): EvidenceEvent => ({
  id: `c${at}`,
  lane: 'console',
  kind: 'line',
  at,
  clock: 'page',
  data: { level, text },
});
const picture = (at: number, blob: string): EvidenceEvent => ({
  id: `p${at}`,
  lane: 'screen',
  kind: 'frame',
  at,
  clock: 'browser',
  data: { blob, mime: 'image/jpeg', width: 1024, height: 768, scale: 1 },
});

const attempt = {
  id: 'a-1',
  runId: 'r-1',
  test: { id: 't', suite: 'booking', title: 'holds a seat' },
  number: 2,
  outcome: 'failed',
  state: 'ready',
  environment: { browser: 'chromium', key: 'chromium 156 1024×768' },
  startedAt: Date.UTC(2026, 10, 23, 15, 21, 47),
  durationMs: 1300,
  message: 'stale element reference',
  stack: '',
  failure: {
    kind: 'stale-element',
    sentence: 'Press on “Hold seat” hit an element that had been replaced',
    step: failing.id,
    at: 1200,
    locator: css('#hold'),
    libraryFrames: 0,
    ownFrame: { file: 'tests/holds.ts', line: 98 },
    message: '',
    stack: '',
  },
  undetermined: false,
} as unknown as Attempt;

const grounds = (events: readonly EvidenceEvent[], more: Partial<Grounds> = {}): Grounds => ({
  attempt,
  run: { name: 'nightly-184', commit: '7c1e09b', branch: 'main' },
  events,
  suspects: [],
  verdict: undefined,
  contrast: null,
  advice: [],
  shown: undefined,
  proofs: [],
  link: 'http://iskel.example/attempts/a-1',
  now: Date.UTC(2026, 10, 30),
  version: '1',
  ...more,
});

describe('what is handed over', () => {
  it('has the steps up to the failure, the same again told once, what is found left out', () => {
    const found = step(1190, 1195, { action: 'find', label: 'Find “#hold”' });
    const after = [1300, 1310, 1320, 1330, 1340].map((at) =>
      step(at, at + 5, { action: 'picture', label: `after ${at}` }),
    );
    const { steps } = handOverOf(grounds([read(100), read(200), read(300), found, failing, ...after]));
    expect(steps.map(({ label, note, failed }) => [label, note, failed])).toEqual([
      ['Read text of “.fare”', '3 times', false],
      ['Press on “Hold seat”', 'stale element not found', true],
      ['after 1300', undefined, false],
      ['after 1310', undefined, false],
      ['after 1320', undefined, false],
    ]);
    expect(steps[0]).toMatchObject({ at: 100, ms: 205 });
  });

  it('has the requests that failed with their answers, those of the page’s own host first', () => {
    const own = exchange(500, 700, { url: 'https://shop.example/api/holds', status: 503, own: true });
    const other = exchange(100, 200, { url: 'https://ads.example/x', failed: 'name not resolved', own: false });
    const fine = exchange(100, 200, { url: 'https://shop.example/api/fares', status: 200, own: true });
    const answer: EvidenceEvent = {
      id: 'b',
      lane: 'body',
      kind: 'body',
      at: 700,
      clock: 'browser',
      data: { exchange: own.id, of: 'response', mime: 'text/plain', text: 'desk closed', length: 11 },
    };
    const { requests } = handOverOf(grounds([other, fine, own, answer]));
    expect(requests.map(({ url, ended, answer: text }) => [url, ended, text])).toEqual([
      ['https://shop.example/api/holds', '503', 'desk closed'],
      ['https://ads.example/x', 'name not resolved', undefined],
    ]);
  });

  it('has errors and warnings of the console, the last forty, and says how many came before', () => {
    const lines = Array.from({ length: 50 }, (_, i) => said(i, 'error', `line ${i}`));
    const { console, consoleBefore } = handOverOf(grounds([said(0, 'info', 'hello'), ...lines]));
    expect(console).toHaveLength(40);
    expect(console[0]!.text).toBe('line 10');
    expect(consoleBefore).toBe(10);
  });

  it('has the picture of the failure with the one before, and knows where the target stood', () => {
    const events = [
      picture(100, 'a'),
      picture(900, 'b'),
      picture(1000, 'b'),
      element(1000, 'appeared', locatorKey(css('#hold')), {
        node: 1,
        visible: true,
        box: { x: 5, y: 6, width: 70, height: 20 },
      }),
      failing,
      picture(1250, 'c'),
    ];
    expect(picturesOf(events).map(({ event, words }) => [event.at, words])).toEqual([
      [1250, 'The screen when it failed'],
      [1000, 'The screen before that'],
    ]);
    expect(targetAt(events, { ...attempt.failure!, at: 1200 })).toEqual({ x: 5, y: 6, width: 70, height: 20 });
    expect(targetAt(events, { ...attempt.failure!, at: 900 })).toBeUndefined();
    expect(picturesOf([failing])).toEqual([]);
    // Where there is a video only, its moment is shown; it was begun before, and lasts so long.
    const video: EvidenceEvent = {
      ...(picture(200, 'v') as Extract<EvidenceEvent, { lane: 'screen' }>),
      kind: 'video',
      data: { blob: 'v', mime: 'video/webm', width: 8, height: 6, scale: 1, durationMs: 700 },
    };
    expect(picturesOf([video, failing], 600)).toMatchObject([{ filmMs: 400 }]);
    expect(picturesOf([video, failing], 1200)).toMatchObject([{ filmMs: 700 }]);
    expect(picturesOf([video, failing], 100)).toMatchObject([{ filmMs: 0 }]);
    expect(picturesOf([video, failing])).toMatchObject([{ filmMs: 700, words: 'The end of the video' }]);
    expect(picturesOf([video, picture(1000, 'a'), failing], 600)).toMatchObject([
      { words: 'The screen when it failed' },
    ]);
  });
});

const everything = (text: string): HandOver => ({
  ...handOverOf(grounds([read(100), failing, said(5, 'error', text)])),
  sentence: text,
  verdict: { confirmed: text, cleared: [{ cause: text, reason: text }], note: text },
  pictures: [{ at: 1, words: text, data: 'data:image/jpeg;base64,AA==', width: 4, height: 3 }],
  parted: [{ summary: text, failing: [1, 1], passing: [0, 3] }],
  suspects: [{ name: text, probability: 0.98, for: [text], against: [text] }],
  own: [{ text, state: text, for: [text], against: [text] }],
  moments: [{ words: text, at: 1 }],
  requests: [{ at: 1, ms: 2, method: text, url: text, ended: text, answer: text }],
  circumstances: [{ name: text, value: text }],
  trials: [text],
  proofs: [text],
  advice: [{ text, because: text }],
});

describe('its forms', () => {
  const pieces = [
    '<',
    '>',
    '"',
    "'",
    '&',
    '`',
    '\n',
    '*',
    '_',
    '#',
    ']',
    '(',
    'a',
    ' ',
    '<script>',
    '</pre>',
    '\u0000',
  ];
  const hostile = fc.array(fc.constantFrom(...pieces), { maxLength: 30 }).map((all) => all.join(''));

  it('as a page it holds nothing of what came from outside but text', () => {
    const tags = (page: string): string[] =>
      [...page.matchAll(/<\/?([a-z!][a-z0-9]*)/gi)].map(([, name]) => name!.toLowerCase());
    const plain = tags(writeHtml(everything('plain')));
    expect(plain).not.toContain('script');
    fc.assert(
      fc.property(hostile, (text) => {
        const page = writeHtml(everything(text === '' ? 'x' : text));
        expect(tags(page)).toEqual(plain);
        expect(page).not.toContain('\u0000');
      }),
    );
  });

  it('links only to addresses of the web', () => {
    const one = { ...everything('x'), link: 'javascript:alert(1)' };
    expect(writeHtml(one)).not.toContain('href="javascript');
    expect(writeHtml(everything('x'))).toContain('href="http://iskel.example/attempts/a-1?at=1200.0"');
  });

  it('as Markdown no text begins or ends anything', () => {
    fc.assert(
      fc.property(hostile, (text) => {
        const lines = writeMarkdown({ ...everything('x'), sentence: text || 'x' }).split('\n');
        expect(lines.filter((line) => line.startsWith('# '))).toHaveLength(1);
        expect(lines.filter((line) => line.startsWith('## ')).length).toBe(11);
      }),
    );
    const fenced = writeMarkdown(everything('````\n# not a heading\n````'));
    expect(fenced).toContain('`````\n');
    expect(writeMarkdown(everything('a*b'))).toContain('a\\*b');
    // Nobody is called by a name that a page wrote.
    expect(writeMarkdown({ ...everything('x'), sentence: 'expected @deniz, a@b.test' })).not.toMatch(/@(?:deniz|b)/);
  });

  it('as text it has all of it, and the sentence first', () => {
    const text = writeText(everything('seats gone'));
    expect(text.split('\n').slice(0, 2)).toEqual(['seats gone', '==========']);
    for (const part of [
      'What to do',
      'Suspects',
      'Steps',
      'Console',
      'tests/holds.ts:98',
      '1 of 1 failing, 0 of 3 passing',
    ])
      expect(text).toContain(part);
  });

  it('tells of causes in own words with what was pinned, and of noted moments with the way there', () => {
    const pinned = { id: 2, at: 0, text: 'an hour early', attempt: 'a-1', moment: 1100, what: 'GET /api/now 200' };
    const verdict = {
      ...verdictOf([]),
      hypotheses: [
        {
          id: 1,
          text: 'The desk’s clock is off',
          state: 'struck out' as const,
          reason: 'it is right',
          for: [pinned],
          against: [{ id: 3, at: 0, text: '', series: 's1' }],
        },
      ],
      moments: [
        { id: 4, at: 0, text: 'here it jumps', attempt: 'a-1', moment: 900 },
        { id: 5, at: 0, text: 'here it does not', attempt: 'a-2', moment: 800 },
      ],
    };
    const told = handOverOf({ ...grounds([failing]), verdict });
    expect(told.own).toEqual([
      {
        text: 'The desk’s clock is off',
        state: 'struck out: it is right',
        for: ['an hour early: GET /api/now 200, at 1.100 s'],
        against: ['trials'],
      },
    ]);
    const page = writeHtml(told);
    expect(page).toContain('href="http://iskel.example/attempts/a-1?at=900.0"');
    expect(page).toContain('href="http://iskel.example/attempts/a-2?at=800.0"');
    expect(writeText(told)).toContain('an hour early: GET /api/now 200');
  });

  it('what is left out is in none of them', () => {
    const bare = without(everything('seats gone'), parts);
    for (const form of [writeHtml(bare), writeMarkdown(bare), writeText(bare)])
      for (const word of ['98 %', 'Read text', 'data:image', '0 of 3']) expect(form).not.toContain(word);
  });
});
