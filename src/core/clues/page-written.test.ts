import { describe, expect, it } from 'vitest';
import { sketchOf } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { css, element, exchange, facts, page, press, step, url, windowEvent } from '../evidence/samples.ts';
import type { Clue } from './clue.ts';
import { alike } from './like-stands-there.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

/** What is told from the documents that were written down: the page as it stood. */

const documents = new Map<string, string>();
let last = 0;
function written(at: number, markup: string, context = 'w1'): EvidenceEvent {
  const blob = `b${++last}`;
  documents.set(blob, markup);
  return page(at, 'structure', { blob, context });
}
function told(events: EvidenceEvent[], message: string, others: EvidenceEvent[][] = []): Clue[] {
  const about = facts('failed', message);
  const kin = others.map((one, i) => sketchOf(prepare(one, about), { id: `k${i}`, startedAt: 0 }));
  const markup = (blob: string): string | undefined => documents.get(blob);
  return findClues({ ...sceneOf(events, about, { id: 'a', startedAt: 0, passing: [], markup }), kin });
}
const one = (clues: Clue[], code: Clue['code']): Clue | undefined => clues.find((clue) => clue.code === code);

const missed = (at: number, locator: string): EvidenceEvent =>
  step(at, at + 8, {
    action: 'find',
    command: 'find element',
    locator: css(locator),
    context: 'w1',
    error: { code: 'no such element', message: 'no such element' },
  });
const read = (at: number, locator: string, result: string, context = 'w1'): EvidenceEvent =>
  step(at, at + 6, { action: 'read', command: 'get text', subject: 'text', locator: css(locator), result, context });
const typed = (at: number, locator: string, input: string): EvidenceEvent =>
  step(at, at + 10, { action: 'type', command: 'element send keys', locator: css(locator), input, context: 'w1' });
const gone = (locator: string): string => `no such element: {"method":"css selector","selector":"${locator}"}`;
const differs = (expected: string, actual: string): string => `value: expected "${expected}" but got "${actual}"`;

describe('a name with a number', () => {
  it.each([
    ['u3-note', ['u4-note', 'u17-note'], ['u-note', 'u4-notes', 'v4-note']],
    ['seat-12', ['seat-9', 'seat-104'], ['seat-a', 'seats-12']],
    ['css-1k9z0q', ['css-8d2jq1', 'css-kk2f9q'], ['css-', 'jss-8d2jq1', 'css-abc']],
    ['fare-ab12cd-row', ['fare-9x8y7z-row'], ['fare-row', 'fare-ab12cd-cell']],
  ])('%s is like what differs in the number alone', (name, like, unlike) => {
    for (const other of like) expect(alike(name).test(other), other).toBe(true);
    for (const other of unlike) expect(alike(name).test(other), other).toBe(false);
  });

  it('that nothing has is brittle when the same with another number stands there', () => {
    const markup = '<body><label for="u4-note">Note</label><textarea id="u4-note"></textarea></body>';
    const clue = one(told([missed(100, '#u3-note'), written(300, markup)], gone('#u3-note')), 'like-stands-there')!;
    expect(clue).toMatchObject({ strength: 1, summary: expect.stringContaining('“u4-note” stood there') as string });
    const attribute = one(
      told(
        [missed(100, '[data-seat="s-12"]'), written(300, '<i data-seat="s-40"></i>')],
        gone('[data-seat=\\"s-12\\"]'),
      ),
      'like-stands-there',
    );
    expect(attribute?.summary).toContain('“s-40” stood there');
  });

  it('is not when it stands there itself, and hardly when it would be the next of a row', () => {
    const there = '<i id="seat-3"></i><i id="seat-4"></i>';
    expect(
      one(told([missed(100, '#seat-3 b'), written(300, there)], gone('#seat-3 b')), 'like-stands-there'),
    ).toBeUndefined();
    const row = '<li id="seat-1"></li><li id="seat-2"></li>';
    expect(one(told([missed(100, '#seat-3'), written(300, row)], gone('#seat-3')), 'like-stands-there')!.strength).toBe(
      0.45,
    );
    const nothing = '<li id="sailing"></li>';
    expect(
      one(told([missed(100, '#seat-3'), written(300, nothing)], gone('#seat-3')), 'like-stands-there'),
    ).toBeUndefined();
  });

  it('says nothing without documents', () => {
    const about = facts('failed', gone('#u3-note'));
    const clues = findClues(sceneOf([missed(100, '#u3-note'), written(300, '<i id="u4-note"></i>')], about));
    expect(one(clues, 'like-stands-there')).toBeUndefined();
  });
});

describe('what the page asks for first', () => {
  const asking = '<p role="alert">Please choose a fare.</p><h1>Seats</h1>';
  const visit = (before: string, after: string): EvidenceEvent[] => [
    written(20, before),
    press(100, '#book', { context: 'w1' }),
    missed(400, '#pass'),
    written(500, after),
  ];

  it('is told when it came upon the last act', () => {
    const clue = one(told(visit('<h1>Seats</h1>', asking), gone('#pass')), 'page-asks')!;
    expect(clue.summary).toBe('The page asked for something first: “Please choose a fare.”');
  });

  it('is not when it stood there before, is hidden, or asks for nothing', () => {
    for (const [before, after] of [
      [asking, asking],
      ['', '<p class="error" hidden>Please choose a fare.</p>'],
      ['', '<p class="error" style="display: none">Please choose a fare.</p>'],
      ['', '<p class="error">The ferry is full.</p>'],
      ['', '<p>Please choose a fare.</p>'],
    ])
      expect(one(told(visit(before!, after!), gone('#pass')), 'page-asks'), after).toBeUndefined();
  });
});

it('a number beyond what the page takes is told, surer when those that failed so gave others', () => {
  const visit = (seats: string): EvidenceEvent[] => [
    typed(50, '#seats', seats),
    press(100, '#book', { context: 'w1' }),
    read(300, '#held', '5'),
    written(400, '<p role="status">We hold 5 seats at most.</p>'),
  ];
  const message = differs('8', '5');
  const drawn = one(told(visit('8'), message, [visit('6')]), 'odd-input')!;
  expect(drawn).toMatchObject({
    strength: 1,
    summary: expect.stringContaining('others that failed so gave 6') as string,
  });
  expect(drawn.summary).toContain('8 was given where the page takes 5 at most');
  expect(one(told(visit('8'), message, [visit('8')]), 'odd-input')!.strength).toBe(0.6);
  expect(one(told(visit('4'), message), 'odd-input')).toBeUndefined();
});

describe('an expected heading', () => {
  const visit = (mine: string, theirs: string): EvidenceEvent[] => [
    windowEvent(0, 'opened', { context: 'w1' }),
    windowEvent(90, 'opened', { context: 'w2' }),
    written(150, mine),
    written(160, theirs, 'w2'),
    read(300, 'h1', 'Terms'),
  ];
  const message = differs('Boarding pass', 'Terms');
  const pass = '<html><head><title>Boarding pass</title></head><body><h1>Pass</h1></body></html>';

  it('that heads another window was looked for in the wrong one', () => {
    const clue = one(told(visit('<h1>Terms</h1>', pass), message), 'found-elsewhere')!;
    expect(clue.summary).toContain('“Boarding pass” heads the page of another window');
  });

  it('is nothing of the kind when it heads this one too, or none', () => {
    expect(one(told(visit('<h1>Boarding pass</h1>', pass), message), 'found-elsewhere')).toBeUndefined();
    expect(one(told(visit('<h1>Terms</h1>', '<h1>Seats</h1>'), message), 'found-elsewhere')).toBeUndefined();
  });
});

it('the first of several was pressed, which stands with what was found; another stands with what was expected', () => {
  const cards = (first: string, second: string): string =>
    `<body><article><h3>${first}</h3><button>Take it</button></article><article><h3>${second}</h3><button>Take it</button></article></body>`;
  const visit = (markup: string): EvidenceEvent[] => [
    element(0, 'appeared', 'css=.take', { node: 1, count: 2, text: 'Take it' }),
    written(50, markup),
    press(100, '.take', { context: 'w1' }),
    read(300, '#told', 'Cabin is yours.'),
  ];
  const message = differs('Recliner is yours.', 'Cabin is yours.');
  const clue = one(told(visit(cards('Cabin', 'Recliner')), message), 'pressed-of-several-shown')!;
  expect(clue.summary).toContain('which stands with “Cabin”; another stands with “Recliner”');
  expect(one(told(visit(cards('Cabin', 'Deck')), message), 'pressed-of-several-shown')).toBeUndefined();
  expect(one(told(visit(cards('Recliner', 'Cabin')), message), 'pressed-of-several-shown')).toBeUndefined();
});

describe('a press that came to nothing', () => {
  const polls = [700, 1000, 1300, 1600, 1900].map((at) =>
    step(at, at + 6, {
      action: 'read',
      command: 'get text',
      subject: 'text',
      locator: css('#fare'),
      result: '12',
      context: 'w1',
    }),
  );
  const answered = (from: number, until: number, path: string): EvidenceEvent =>
    exchange(from, until, { url: `${url}${path}`, own: true, type: 'fetch', status: 200 });
  const message = 'Timed out after 1200 ms waiting for the fare';
  const press2 = press(300, '#grow', { context: 'w1' });

  it('is told with the answer that was under way then', () => {
    const clue = one(told([answered(100, 900, '/api/fares'), press2, ...polls], message), 'press-came-to-nothing')!;
    expect(clue.summary).toContain('brought nothing; it came 600 ms before GET /api/fares answered');
  });

  it('is not when the page asked for something upon it, had the answer, or never got it', () => {
    for (const events of [
      [answered(100, 900, '/api/fares'), press2, answered(320, 600, '/api/quote'), ...polls],
      [answered(100, 200, '/api/fares'), press2, ...polls],
      [answered(100, 1900, '/api/fares'), press2, ...polls],
    ])
      expect(one(told(events, message), 'press-came-to-nothing')).toBeUndefined();
  });
});

it('a cell that was counted off is brittle when what was expected stands in the next', () => {
  const visit = (markup: string, locator = 'tr td:nth-child(4)'): EvidenceEvent[] => [
    read(100, locator, '–'),
    written(300, markup),
  ];
  const message = differs('80 minutes', '–');
  const row = '<table><tr><td>Kuzu</td><td>–</td><td>80 minutes</td></tr></table>';
  expect(one(told(visit(row), message), 'generated-locator')?.summary).toContain(
    '“80 minutes” stood in the cell after it',
  );
  expect(one(told(visit(row, '#crossing'), message), 'generated-locator')).toBeUndefined();
  const list = '<ul><li>–</li><li>80 minutes</li></ul>';
  expect(one(told(visit(list), message), 'generated-locator')).toBeUndefined();
});

it('a page that changed its address by itself, and was pressed before its view came', () => {
  const card = (at: number): EvidenceEvent => element(at, 'appeared', 'css=.card', { node: 1, text: 'Kuzu' });
  const visit = (address: string): EvidenceEvent[] => [
    card(10),
    { ...written(40, '<i></i>'), data: { blob: 'b1', context: 'w1', address: `${url}/sailings` } } as EvidenceEvent,
    press(100, '#next', { context: 'w1' }),
    exchange(105, 900, { url: `${url}/api/sailings?page=2` }),
    { ...written(300, '<i></i>'), data: { blob: 'b1', context: 'w1', address: `${url}${address}` } } as EvidenceEvent,
    press(400, '.card', { context: 'w1' }),
    read(600, 'h1', 'Kuzu'),
  ];
  const clue = one(told(visit('/sailings?page=2'), differs('Ada', 'Kuzu')), 'view-on-the-way')!;
  expect(clue.summary).toContain(
    'the page had gone to /sailings?page=2 and before GET /api/sailings had brought its view',
  );
  expect(one(told(visit('/sailings'), differs('Ada', 'Kuzu')), 'view-on-the-way')).toBeUndefined();
});
