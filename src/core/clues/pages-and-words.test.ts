import { describe, expect, it } from 'vitest';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import {
  check,
  css,
  element,
  facts,
  intercepted,
  line,
  page,
  press,
  reads,
  stale,
  step,
  url,
} from '../evidence/samples.ts';
import type { Clue } from './clue.ts';
import { findClues, quietCodes } from './register.ts';
import { sceneOf } from './scene.ts';

/** Clues about where a step was done, what was found there and in which words: each shown, and each left unsaid. */

let count = 0;
const open = (path = '/hold'): EvidenceEvent[] => [
  step(0, 20, { action: 'open', command: 'navigate to', input: `${url}${path}` }),
  page(5, 'navigation-committed', { address: `${url}${path}` }),
];
const arrives = (at: number, path: string): EvidenceEvent =>
  page(at, 'navigation-committed', { address: `${url}${path}` });
interface About {
  message?: string;
  browser?: string;
  kin?: Sketch[];
}
const factsOf = (outcome: 'passed' | 'failed', { message = '', browser = 'chromium' }: About = {}) => ({
  ...facts(outcome, message),
  environment: { browser, version: '156' },
});
const passed = (events: EvidenceEvent[], about: About = {}): Sketch =>
  sketchOf(prepare(events, factsOf('passed', about)), { id: `k${++count}`, startedAt: 0 });
const clue = (code: string, events: EvidenceEvent[], passing: Sketch[] = [], about: About = {}): Clue | undefined =>
  findClues({
    ...sceneOf(events, factsOf('failed', about), { id: 'f', startedAt: 0, passing }),
    ...(about.kin ? { kin: about.kin } : {}),
  }).find((one) => one.code === code);
const expected = (wanted: string, was: string): About => ({ message: `expected "${wanted}" but got "${was}"` });

describe('which page it was', () => {
  const onto = (path: string, arrivedAt: number, value: string): EvidenceEvent[] => [
    ...open('/sign-in'),
    press(100),
    arrives(arrivedAt, path),
    reads(300, value),
    check(320, value === 'Account', 'Account', value),
  ];

  it('is told when no passing attempt ever was there', () => {
    const others = [1, 2, 3].map(() => passed(onto('/account', 150, 'Account')));
    const found = clue('other-page', onto('/sorry', 150, 'Sorry'), others, expected('Account', 'Sorry'));
    expect(found!.summary).toContain(
      'was done on /sorry, where no passing attempt was; in 3 of 3 passing attempts it was /account',
    );
    expect(clue('other-page', onto('/account', 150, 'Oops'), others, expected('Account', 'Oops'))).toBeUndefined();
    expect(clue('other-page', onto('/sorry', 150, 'Sorry'), [], expected('Account', 'Sorry'))).toBeUndefined();
  });

  it('is told when the step was still done on the page before', () => {
    const others = [1, 2, 3].map(() => passed(onto('/account', 150, 'Account')));
    const found = clue(
      'still-on-page-before',
      onto('/account', 700, 'Sign in'),
      others,
      expected('Account', 'Sign in'),
    );
    expect(found!.summary).toContain('was done on /sign-in; in 3 of 3 passing attempts it was done on /account');
    expect(found!.strength).toBeGreaterThan(0.9);
    const same = clue('still-on-page-before', onto('/account', 150, 'Oops'), others, expected('Account', 'Oops'));
    expect(same).toBeUndefined();
  });
});

describe('what was found', () => {
  it('is more than usual: what an earlier attempt left lies before it', () => {
    const basket = (text: string): EvidenceEvent[] => [
      ...open(),
      reads(100, text),
      check(120, false, '1 ticket', text),
    ];
    const others = [1, 2, 3].map(() => passed(basket('Ada to Kuzu')));
    const found = clue(
      'more-than-usual',
      basket('Deniz to Ada\nAda to Kuzu'),
      others,
      expected('Ada to Kuzu', 'Deniz to Ada Ada to Kuzu'),
    );
    expect(found!.summary).toContain('more than the “Ada to Kuzu” in 3 of 3 passing attempts');
    expect(clue('more-than-usual', basket('Ada to Kuzu'), others, expected('x', 'Ada to Kuzu'))).toBeUndefined();
    const counted = clue('more-than-usual', basket('2 tickets'), [], expected('1 ticket', '2 tickets'));
    expect(counted).toMatchObject({ strength: 0.6, summary: 'It counted 2 where 1 was expected' });
    expect(clue('more-than-usual', basket('9 tickets'), [], expected('1 ticket', '9 tickets'))).toBeUndefined();
  });

  it('is another one of several than passing attempts found', () => {
    const offers = (texts: string[]): EvidenceEvent[] => [
      ...open(),
      element(30, 'appeared', 'css=.offer', { node: 1, count: texts.length, text: texts[0]!, name: texts[0]! }),
      press(100, '.offer'),
      reads(200, texts[0]!),
      check(220, false, 'Winter crossing', texts[0]!),
    ];
    const others = [1, 2, 3].map(() => passed(offers(['Winter crossing', 'Day trip'])));
    const found = clue('other-of-several', offers(['Harbour hotel', 'Winter crossing', 'Day trip']), others);
    expect(found!.summary).toContain(
      '3 elements matched at Press on “Harbour hotel”, in 3 of 3 passing attempts only 2',
    );
    expect(found!.summary).toContain('the first reads “Harbour hotel” where it read “Winter crossing”');
    expect(clue('other-of-several', offers(['Winter crossing', 'Day trip']), others)).toBeUndefined();
  });

  it('alone differs, where everything before went as it always does', () => {
    const summed = (value: string, pressed = '#go'): EvidenceEvent[] => [
      ...open(),
      press(50, pressed),
      reads(100, value),
      check(120, false, '442', value),
    ];
    const others = [1, 2, 3, 4].map(() => passed(summed('442')));
    expect(clue('value-alone-differs', summed('412'), others, expected('442', '412'))!.summary).toContain(
      'everything went as in passing attempts',
    );
    expect(clue('value-alone-differs', summed('412', '#other'), others, expected('442', '412'))).toBeUndefined();
    expect(clue('value-alone-differs', summed('412'), [], expected('442', '412'))).toBeUndefined();
    expect(quietCodes).toContain('value-alone-differs');
  });

  it('says the same in other words, or in the other way round of writing', () => {
    const shown = (value: string): EvidenceEvent[] => [
      ...open(),
      reads(100, value),
      check(120, false, 'Hold a seat', value),
    ];
    expect(clue('wording-differs', shown('Hold seat'), [], expected('Hold a seat', 'Hold seat'))!.summary).toContain(
      '“Hold seat” and the expected “Hold a seat”',
    );
    expect(clue('wording-differs', shown('1,240.00'), [], expected('1 240.00', '1,240.00'))).toBeDefined();
    expect(clue('wording-differs', shown('412'), [], expected('442', '412'))).toBeUndefined();
    expect(clue('wording-differs', shown(''), [], expected('442', ''))).toBeUndefined();
  });

  it('differs in a date, or speaks of a day where none was expected', () => {
    const dated = (value: string): EvidenceEvent[] => [...open(), reads(100, value), check(120, false, 'x', value)];
    const was = (wanted: string, value: string) => clue('date-differs', dated(value), [], expected(wanted, value));
    expect(was('25 November 2026', '26 November 2026')!.summary).toBe(
      '“26 November 2026” was found where “25 November 2026” was expected',
    );
    expect(was('Next sailing 18:40', 'Next sailing tomorrow 07:10')!.strength).toBeLessThan(1);
    expect(was('442', '412')).toBeUndefined();
  });
});

describe('in which engine', () => {
  const events = (): EvidenceEvent[] => [...open(), press(50)];
  it('is told when it passes in others only', () => {
    const others = ['chromium', 'firefox', 'chromium'].map((browser) => passed(events(), { browser }));
    const found = clue('engine-only', events(), others, { browser: 'webkit' });
    expect(found!.summary).toBe('It ran in webkit; in 3 of 3 passing attempts it was chromium or firefox');
    expect(clue('engine-only', events(), others, { browser: 'firefox' })).toBeUndefined();
  });

  it('tells more the more failed so, and nothing when it failed so in another engine', () => {
    const others = ['chromium', 'chromium', 'chromium'].map((browser) => passed(events(), { browser }));
    const beside = (...engines: string[]) => {
      const kin = engines.map((browser) => passed(events(), { browser }));
      return clue('engine-only', events(), others, { browser: 'webkit', kin });
    };
    expect(beside()!.strength).toBeLessThan(beside('webkit')!.strength);
    expect(beside('webkit')!.strength).toBeLessThan(beside('webkit', 'webkit')!.strength);
    expect(beside('webkit')!.summary).toContain('It ran in webkit, as in the other that failed so;');
    expect(beside('webkit', 'webkit')!.summary).toContain('as in all 2 others that failed so');
    expect(beside('webkit', 'chromium')).toBeUndefined();
  });
});

describe('what the message says', () => {
  const shown = [line(90, 'something went wrong', 'error')];
  it('is a clue where nothing else was recorded', () => {
    expect(clue('timeout-told', shown, [], { message: 'timed out after 1500 ms waiting for #paid' })!.summary).toBe(
      'A wait gave up after 1.5 s',
    );
    expect(
      clue('not-interactable-told', shown, [], { message: 'element not interactable: element has zero size' }),
    ).toBeDefined();
    for (const code of ['timeout-told', 'not-interactable-told'])
      expect(clue(code, shown, [], { message: 'expected "a" but got "b"' })).toBeUndefined();
  });
});

describe('where a press went', () => {
  const target = (more = {}): EvidenceEvent =>
    element(30, 'appeared', 'css=#go', {
      node: 1,
      name: 'Hold seat',
      coveredBy: null,
      box: { x: 100, y: 100, width: 80, height: 30 },
      ...more,
    });

  it('is told to have been free, which speaks against a cover, quietly', () => {
    expect(
      clue('press-point-free', [...open(), target(), press(100, '#go', { error: stale })], [], {
        message: stale.message,
      }),
    ).toBeDefined();
    expect(
      clue('press-point-free', [...open(), target({ coveredBy: 'Storm' }), press(100, '#go', { error: stale })], [], {
        message: stale.message,
      }),
    ).toBeUndefined();
    expect(
      clue('press-point-free', [...open(), target(), press(100, '#go', { error: intercepted })], [], {
        message: intercepted.message,
      }),
    ).toBeUndefined();
    expect(quietCodes).toContain('press-point-free');
  });

  it('by coordinates is told when it reached something else than what was measured', () => {
    const byHand = (x: number, y: number): EvidenceEvent[] => [
      ...open(),
      target(),
      step(60, 70, { action: 'read', command: 'get element rect', subject: 'rect', locator: css('#go') }),
      step(100, 130, { action: 'keys', command: 'perform actions', input: 'pointerDown' }),
      page(120, 'press', { x, y, label: 'button “Cancel”' }),
    ];
    expect(clue('press-reached-other', byHand(140, 180))!.summary).toBe(
      'The press meant for “Hold seat” reached button “Cancel”',
    );
    expect(clue('press-reached-other', byHand(140, 115))).toBeUndefined();
  });
});

describe('a sleep before the failing step', () => {
  const slept = (ms: number): EvidenceEvent[] => {
    const asked = [30, 40, 50, 60].map((at, i) => ({ ...reads(at, 'x', `#r${i}`), until: at + 4 }));
    return [...open(), ...asked, reads(70 + ms, 'b', '#last'), check(90 + ms, false, 'a', 'b')];
  };
  it('is told when it is one, and not when the test merely goes on', () => {
    const about = expected('a', 'b');
    const found = clue('slept-before', [...slept(600)], [], about);
    expect(found!.summary).toMatch(/^The test slept 60\d ms before Read text of “#last”/);
    expect(clue('slept-before', slept(12), [], about)).toBeUndefined();
  });
});
