import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { causeCodes } from '../causes/cause.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import {
  check,
  css,
  element,
  exchange,
  line,
  page,
  press,
  reads,
  step,
  url,
  windowEvent,
} from '../evidence/samples.ts';
import { printStatement } from '../drill/print.ts';
import { elementsOf } from '../evidence/markup.ts';
import type { Change } from './change.ts';
import { advised, failed, opened, told, types, words } from './samples.ts';
import type { Told } from './told.ts';

/** Each kind of advice on the smallest attempts that call for it, and on some that do not. */

const last = ({ evidence }: Told) => [evidence.steps.at(-1)!];

describe('a longer limit', () => {
  const waited = (ms: number, came: number, make: typeof told = told): Told =>
    make([
      ...opened(),
      element(20, 'absent', 'css=#card', { node: null }),
      element(100 + came, 'appeared', 'css=#card', { node: 4, name: 'card' }),
      step(100, 100 + ms, {
        action: 'find',
        command: 'find element',
        locator: css('#card'),
        ...(came > ms ? { error: { code: 'no such element', message: 'no such element' } } : {}),
      }),
    ]);

  it('is told from how long it took here and in passing attempts', () => {
    const subject = waited(900, 1400, failed);
    const [first] = advised('slow-response', subject, [waited(310, 310), waited(520, 520)], { shows: last(subject) });
    expect(first!.kind).toBe('limit');
    expect(first!.text).toBe('Let Find “card” wait up to 4.5 s');
    expect(first!.because).toBe(
      'The wait gave up after 900 ms; what it waited for came 500 ms later; passing attempts needed 310 ms to 520 ms',
    );
    expect(first!.passing).toEqual([2, 2]);
  });

  it('names the answer that was still under way', () => {
    const subject = failed([
      ...opened(),
      exchange(60, 2400, { url: `${url}/fleet/12/card` }),
      step(100, 1000, {
        action: 'find',
        command: 'find element',
        locator: css('#card'),
        error: { code: 'no such element', message: 'x' },
      }),
    ]);
    const [first] = advised('slow-response', subject, [], { shows: last(subject) });
    expect(first!.text).toContain('or first wait until GET /fleet/#/card has answered');
    expect(first!.because).toContain('GET /fleet/#/card answered 1.4 s later');
  });

  it('grows with the machine where everything was slow', () => {
    const paced = (ms: number, make: typeof told = told): Told =>
      make([...opened(), ...[100, 300, 500, 700].map((at, i) => ({ ...reads(at, 'x', `#r${i}`), until: at + ms }))]);
    const subject = paced(60, failed);
    const [first] = advised('starved-machine', subject, [paced(12), paced(12)], { shows: last(subject) });
    expect(first!.text).toContain('5 times as long here');
    expect(advised('starved-machine', paced(13, failed), [paced(12)])).toEqual([]);
  });
});

describe('a locator that lasts', () => {
  const html = (id: string, more = ''): string =>
    `<html><head><title>x</title><style>b{}</style></head><body><h1>Fares</h1><button id="${id}" name="hold" class="x">Hold seat</button>${more}<p>Hold seat</p></body></html>`;
  const built = (id: string, blob: string, make: typeof told = told): Told =>
    make([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob }),
      element(40, 'appeared', `css=#${id}`, {
        node: 1,
        tag: 'button',
        name: 'Hold seat',
        text: 'Hold seat',
        attrs: { id, name: 'hold', class: 'x' },
      }),
      press(100, `#${id}`),
    ]);
  const missed = (blob: string): Told =>
    failed([
      ...opened(),
      page(30, 'structure', { address: `${url}/hold`, blob }),
      press(100, '#b-3f9a2c1', { error: { code: 'no such element', message: 'no' } }),
    ]);
  const blobs: Record<string, string> = {
    now: html('b-77aa01e'),
    before: html('b-3f9a2c1'),
    two: html('b-77aa01e', '<button name="hold">Hold all</button>'),
    none: '<html><body><p>Closed</p></body></html>',
  };
  const markup = (blob: string): string | undefined => blobs[blob];

  it('is one that every attempt’s page has exactly once, this one’s too', () => {
    const subject = missed('now');
    const [first] = advised('brittle-locator', subject, [built('b-3f9a2c1', 'before'), built('b-3f9a2c1', 'before')], {
      shows: last(subject),
      markup,
    });
    expect(first!.text).toBe(
      'Locate the element of “element click” by [name="hold"], not by “#b-3f9a2c1”'.replace(
        '“element click”',
        'Press on “#b-3f9a2c1”',
      ),
    );
    expect(first).toMatchObject({ kind: 'locator', passing: [2, 2], failing: [1, 1] });
    expect(first!.because).toContain('in 2 of 2 passing attempts, and one here');
  });

  it('is another one where that matches several', () => {
    const subject = missed('two');
    const [first] = advised('brittle-locator', subject, [built('b-3f9a2c1', 'before')], {
      shows: last(subject),
      markup,
    });
    expect(first!.text).toContain('its text: the button that reads “Hold seat”');
  });

  it('is none where this page has nothing of the kind, or no page was written down', () => {
    const passing = [built('b-3f9a2c1', 'before')];
    expect(advised('brittle-locator', missed('none'), passing, { shows: last(missed('none')), markup })).toEqual([]);
    expect(advised('brittle-locator', missed('now'), passing, { shows: last(missed('now')) })).toEqual([]);
  });
});

describe('documents read for locators', () => {
  it('give elements with what they say, without what nobody sees', () => {
    const found = elementsOf(
      '<body><div id=a>One <b>two</b><script>no()</script><style>x{}</style></div><br><input value="3"></body>',
    );
    expect(found.map(({ tag, text }) => [tag, text])).toEqual([
      ['body', 'One two'],
      ['div', 'One two'],
      ['b', 'two'],
      ['br', ''],
      ['input', ''],
    ]);
    expect(found[4]!.attrs).toEqual({ value: '3' });
  });

  it('may be anything: nothing throws, and depth is no danger', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => void elementsOf(text)));
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('<a ', 'href="', '>', '</b>', '<!--', ']]>', '<template>', 'x', '&#x'), {
          maxLength: 60,
        }),
        (parts) => void elementsOf(parts.join('')),
      ),
    );
    const deep = elementsOf('<i>'.repeat(20_000));
    expect(deep.length).toBeLessThanOrEqual(402);
  });
});

describe('windows, dialogs and steps', () => {
  it('the window to look at is the one passing attempts looked at', () => {
    const looked = (context: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        windowEvent(5, 'opened', { context: 'one', address: `${url}/hold` }),
        windowEvent(50, 'opened', { context: 'two', address: `${url}/boarding-pass` }),
        reads(100, 'Mert Kaya', '#name', { context }),
      ]);
    const subject = looked('one', failed);
    const [first] = advised('wrong-window', subject, [looked('two'), looked('two')], { shows: last(subject) });
    expect(first!.text).toBe('Before Read text of “#name”, switch to the window at “/boarding-pass”');
    expect(first!.because).toContain('in 2 of 2 passing attempts; here the test was looking at the window at “/hold”');
  });

  it('or, with none known, the one its element stands in', () => {
    const subject = failed([
      ...opened(),
      windowEvent(5, 'opened', { context: 'one', address: `${url}/hold` }),
      element(60, 'appeared', 'css=#name', { node: 3 }, { context: 'frame' }),
      page(40, 'navigation-committed', { address: `${url}/card-desk`, context: 'frame' }),
      reads(100, '', '#name', { context: 'one', error: { code: 'no such element', message: 'no' } }),
    ]);
    const [first] = advised('wrong-window', subject, [], { shows: last(subject) });
    expect(first!.text).toContain('switch to the frame at “/card-desk”');
  });

  it('a frame that was told by its number is to be known by what it holds', () => {
    const looked = (context: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        windowEvent(5, 'opened', { context: 'one', address: `${url}/hold` }),
        page(40, 'navigation-committed', { address: `${url}/card-desk?visit=7`, context: 'desk' }),
        page(41, 'navigation-committed', { address: `${url}/news`, context: 'news' }),
        step(80, 85, { action: 'frame', number: 0, context: 'one' }),
        reads(100, 'Mert Kaya', '#name', { context }),
      ]);
    const subject = looked('news', failed);
    const [first] = advised('wrong-window', subject, [looked('desk')], { shows: last(subject) });
    const { statements } = first!.change!.change as Extract<Change, { do: 'put before' }>;
    expect(statements.map(printStatement)).toEqual([
      'switch to frame top',
      `wait until css "iframe[src*='/card-desk']" is there up to 10 s every 50 ms`,
      `switch to frame css "iframe[src*='/card-desk']"`,
    ]);
  });

  it('the dialog is to be answered as passing attempts do, or expected', () => {
    const asked = (answer: boolean, make: typeof told = told): Told =>
      make([
        ...opened(),
        windowEvent(50, 'dialog-opened', { context: 'one', text: 'Leave without saving?' }),
        ...(answer ? [step(60, 70, { action: 'dialog', command: 'accept alert', label: 'Accept the dialog' })] : []),
        press(100),
      ]);
    const subject = asked(false, failed);
    expect(words(advised('unexpected-dialog', subject, [asked(true)], { shows: last(subject) }))).toEqual([
      'Answer the dialog “Leave without saving?” before Press on “#go” as passing attempts do',
    ]);
    const [alone] = advised('unexpected-dialog', subject, [told([...opened(), press(100)])], { shows: last(subject) });
    expect(alone!.text).toContain('Expect the dialog');
    expect(alone!.because).toBe('It opened in 0 of 1 passing attempts, and here alone');
    expect(advised('unexpected-dialog', told([...opened(), press(100)], { outcome: 'failed' }), [])).toEqual([]);
  });

  it('the step that was left out is to be taken', () => {
    const agreed = (agrees: boolean, make: typeof told = told): Told =>
      make([...opened(), ...(agrees ? [press(60, '#agree')] : []), press(100), reads(140, 'x')]);
    const subject = agreed(false, failed);
    const [first] = advised('missing-step', subject, [agreed(true), agreed(true), agreed(true)], {
      shows: last(subject),
    });
    expect(first!.text).toMatch(/^Take the step Press on “#agree” before Press on “#go”/);
    expect(first).toMatchObject({ passing: [3, 3], failing: [0, 1] });
    expect(advised('missing-step', subject, [agreed(false)], { shows: last(subject) })).toEqual([]);
  });

  it('the step that was given up because its target was not there is to be taken', () => {
    const bag = (there: boolean, make: typeof told = told): Told => {
      const error = { code: 'no such element', message: 'none' };
      const find = step(60, 64, {
        action: 'find',
        command: 'find element',
        locator: css('#bag'),
        ...(there ? { element: 'e1' } : { error }),
      });
      return make([...opened(), find, ...(there ? [press(66, '#bag')] : []), press(100), reads(140, 'x')]);
    };
    const subject = bag(false, failed);
    const [first] = advised('missing-step', subject, [bag(true), bag(true)], { shows: last(subject) });
    expect(first!.text).toMatch(/^Take the step Press on “#bag” before Press on “#go”/);
    expect(advised('missing-step', subject, [bag(false)], { shows: last(subject) })).toEqual([]);
  });

  it('a check is to make sure of something to check, from how much there was', () => {
    const counted = (count: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        step(100, 110, { action: 'find', command: 'find elements', locator: css('.line'), result: count }),
      ]);
    const subject = counted(0);
    const [first] = advised('empty-check', subject, [counted(3), counted(5)], { shows: last(subject) });
    expect(first!.text).toContain('check that there is at least 3 to look at');
    expect(first!.because).toBe('There were 3 to 5 in 2 of 2 passing attempts, and 0 here');
  });
});

describe('data, clocks and sizes', () => {
  it('generated data is to be fixed, with what passed and what did not', () => {
    const named = (name: string, make: typeof told = told): Told => make([...opened(), types(60, name), press(100)]);
    const subject = named('O’Brien', failed);
    const [first] = advised('random-data', subject, [named('Kaya'), named('Demir'), named('Kaya')], {
      shows: [subject.evidence.steps[1]!],
    });
    expect(first!.text).toContain('give “O’Brien” a test of its own');
    expect(first!.because).toBe(
      '“Kaya”, “Demir” were typed in 3 of 3 passing attempts; the failing value is none of them',
    );
    expect(advised('random-data', subject, [named('O’Brien')], { shows: last(subject) })).toEqual([]);
  });

  it('what a field held is to be looked at', () => {
    const subject = failed([
      ...opened(),
      types(60, '0532 111'),
      page(66, 'held-value', { label: 'input', text: '0532 111' }),
      page(90, 'held-value', { label: 'input', text: '' }),
      press(200),
    ]);
    const list = advised('lost-input', subject, [], { shows: [subject.evidence.steps[1]!] });
    expect(list.at(-1)!.because).toBe('The field was last seen holding “” where “0532 111” was typed');
  });

  it('the clock is told with when it failed and when it passes', () => {
    const at = (iso: string, make: typeof told = told): Told =>
      make([...opened(), reads(100, 'x')], {
        startedAt: Date.parse(iso),
        outcome: make === failed ? 'failed' : 'passed',
      });
    const subject = at('2026-11-24T23:40:00Z', failed);
    const [first] = advised('clock-dependent', subject, [at('2026-11-24T09:10:00Z'), at('2026-11-23T14:00:00Z')], {
      shows: last(subject),
    });
    expect(first!.because).toContain(
      'it failed on 2026-11-24 23:40 UTC, passing attempts ran from 2026-11-23 14:00 to 2026-11-24 09:10',
    );
  });

  it('the size is told with where the element was at it', () => {
    const sized = (width: number, visible: boolean, make: typeof told = told): Told =>
      make(
        [
          ...opened(),
          element(30, 'appeared', 'css=#go', {
            node: 1,
            name: 'Menu',
            visible,
            box: { x: -600, y: 10, width: 80, height: 20 },
          }),
          press(100),
        ],
        {
          environment: { width, height: 800 },
          outcome: make === failed ? 'failed' : 'passed',
        },
      );
    const subject = sized(560, false, failed);
    const [first] = advised('layout-variant', subject, [sized(1280, true), sized(1280, true)], {
      shows: last(subject),
    });
    expect(first!.text).toMatch(/^Set the window to 1280×800 for this test, or reach Press on “Menu” at 560×800/);
    expect(first!.because).toBe(
      'At 560×800 its element is hidden (80×20 at -600, 10); it was visible in 2 of 2 passing attempts, at 1280×800',
    );
  });

  it('an engine is told with what it does differently', () => {
    const ran = (browser: string, value: string, make: typeof told = told): Told =>
      make([...opened(), reads(100, value)], {
        environment: { browser },
        outcome: make === failed ? 'failed' : 'passed',
      });
    const subject = ran('webkit', '24.11.2026', failed);
    const [first] = advised(
      'engine-difference',
      subject,
      [ran('chromium', '24 November'), ran('firefox', '24 November')],
      { shows: last(subject) },
    );
    expect(first!.because).toBe(
      'Its passing attempts ran in chromium and firefox (2); Read text of “#out” gave “24.11.2026” here and “24 November” there',
    );
    expect(advised('engine-difference', subject, [ran('webkit', 'x')], { shows: last(subject) })).toEqual([]);
  });

  it('shared state names the clue and asks for data of its own', () => {
    const subject = failed([...opened(), reads(100, 'Seat 2A is taken')]);
    const [first] = advised('shared-state', subject, [told([...opened(), reads(100, 'Seat 2A held')])], {
      shows: last(subject),
    });
    expect(first!.because).toBe('a clue; “Seat 2A held” was seen in the one passing attempt');
  });
});

describe('what is handed over', () => {
  const asked = (
    data: { status?: number; failed?: string; own?: boolean; host?: string },
    make: typeof told = told,
  ): Told => make([...opened(), exchange(60, 140, { url: `${url}/api/tariff`, ...data }), reads(200, '')]);
  const request = ({ evidence }: Told) => [evidence.network[0]!];

  it('a failing service of the application’s own, with how it answers otherwise', () => {
    const subject = asked({ status: 503 }, failed);
    const [first] = advised('service-error', subject, [asked({}), asked({}), asked({ status: 503 })], {
      shows: request(subject),
    });
    expect(first!.text).toMatch(/^Hand GET \/api\/tariff to those who run it/);
    expect(first!.because).toBe('It answered 503 after 80 ms; it answered well in 2 of 3 passing attempts');
  });

  it('an outside service, which the test should do without', () => {
    const subject = asked({ own: false, host: 'bank.test', failed: 'connection refused', status: 0 }, failed);
    const [first] = advised('third-party-outage', subject, [], { shows: request(subject) });
    expect(first!.text).toMatch(/^Answer bank\.test from within the test/);
    expect(first!.because).toBe('It failed: connection refused');
  });

  it('an exception, with the step it came after', () => {
    const thrown: EvidenceEvent = {
      id: 'x1',
      lane: 'console',
      kind: 'exception',
      at: 130,
      clock: 'browser',
      data: {
        level: 'error',
        text: 'TypeError: seats is undefined',
        stack: 'at draw (http://ferry.test/panel.js:12:7)',
      },
    };
    const subject = failed([...opened(), press(100), thrown, reads(200, '')]);
    const [first] = advised('script-error', subject, [told([...opened(), line(50, 'ready')])], { shows: [thrown] });
    expect(first!.text).toBe(
      'Hand “TypeError: seats is undefined” to those who write the page: it was thrown at panel.js:12:7',
    );
    expect(first!.because).toBe('It was thrown 30 ms after Press on “#go” began, and in 0 of 1 passing attempts');
  });

  it('a wrong result, with the commits between which it came', () => {
    const summed = (value: string, commit: string, make: typeof told = told): Told =>
      make([...opened(), reads(100, value), check(110, value === '442', '442', value)], {
        commit,
        outcome: make === failed ? 'failed' : 'passed',
      });
    const subject = summed('412', 'bbbbbbbbbbbb', failed);
    const [first] = advised('wrong-result', subject, [summed('442', 'aaaaaaaaaaaa')], { shows: last(subject) });
    expect(first!.text).toContain('look at what changed between aaaaaaaaaa and bbbbbbbbbb');
    const [other] = advised('wrong-expectation', subject, [], { shows: last(subject) });
    expect(other!.text).toContain('Ask which is meant, “442” or “412”');
  });
});

describe('all advice', () => {
  it('is drawn for every cause without failing on attempts that show nothing', () => {
    for (const cause of causeCodes) {
      const empty = failed([]);
      expect(advised(cause, empty, [told([])])).toBeInstanceOf(Array);
      const little = failed([...opened(), press(100)]);
      for (const one of advised(cause, little, [told([...opened(), press(100)])], { shows: last(little) })) {
        expect(one.cause).toBe(cause);
        expect(one.shown.every(({ attempt, event }) => attempt !== '' && event !== '')).toBe(true);
      }
    }
  });

  it('counts no more than there are', () => {
    const subject = failed([...opened(), types(60, 'b'), press(100)]);
    const passing = [1, 2, 3].map((n) => told([...opened(), types(60, `a${n}`), press(100)]));
    for (const cause of causeCodes)
      for (const { passing: count } of advised(cause, subject, passing, { shows: last(subject) }))
        if (count) expect(count[0]).toBeLessThanOrEqual(count[1]);
  });
});
