import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { prepare } from '../evidence/prepare.ts';
import { check, css, element, facts, stale, step } from '../evidence/samples.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Statement, Target } from './drill.ts';
import { drillFromEvidence } from './from-evidence.ts';
import { parseDrill } from './parse.ts';
import { printDrill } from './print.ts';

describe('reading', () => {
  it('reads every statement', () => {
    const { drill, errors } = parseDrill(`drill "all of it"
window 1280 x 800
implicit 2 s
open "http://127.0.0.1/"   # a remark
find hold = css "#hold" match 2 in xpath "//main"
press hold
type "O’Rourke \\"x\\"" into css "#name"
type secret "passenger" into css "#code"
clear hold
read attribute "href" of link "Go to checkout"
check title is "Ferry"
check text of hold matches "^\\\\d+$"
wait until css "#a" is there
wait until text of css ".fare" is not "…" up to 3 s every 60 ms
wait until script "return ready" answers up to 500 ms
pause 250 ms
script "return 1"
switch to window 2
switch to frame top
switch to frame 1
accept dialog with "yes"
dismiss dialog
back
reload
screenshot
close window`);
    expect(errors).toEqual([]);
    expect(drill!.title).toBe('all of it');
    expect(drill!.lines).toHaveLength(25);
    expect(drill!.lines[3]).toMatchObject({
      do: 'find',
      line: 5,
      locator: { by: 'css', value: '#hold', match: 2, within: { locator: { by: 'xpath' } } },
    });
    expect(drill!.lines.find((one) => one.do === 'wait' && one.line === 13)).toMatchObject({
      limitMs: 5000,
      everyMs: 100,
    });
  });

  it.each([
    ['fly away', 1, 1, /no statement/],
    ['press hold', 1, 7, /nothing was found as “hold”/],
    ['open http', 1, 6, /in double quotes/],
    ['open "http', 1, 6, /closing quote/],
    ['pause 5', 1, 8, /unit/],
    ['check title matches "("', 1, 21, /cannot be read/],
    ['find a = css "#a" match 0', 1, 25, /counted from 1/],
    ['back now', 1, 6, /more than this statement takes/],
    ['actions "{"', 1, 9, /JSON/],
    ['', 1, 1, /does nothing yet/],
  ])('tells what is wrong with %s, where, and how to mend it', (text, line, column, message) => {
    const { drill, errors } = parseDrill(text);
    expect(drill).toBeUndefined();
    expect(errors[0]).toMatchObject({ line, column });
    expect(errors[0]!.message).toMatch(message);
  });

  it('tells every fault, not only the first', () => {
    expect(parseDrill('fly\nopen "x"\npause').errors.map(({ line }) => line)).toEqual([1, 3]);
  });

  it('never throws, whatever it is given', () => {
    fc.assert(fc.property(fc.string({ maxLength: 200 }), (text) => void parseDrill(text)));
  });
});

describe('printing', () => {
  const name = fc.stringMatching(/^[a-z]{3,8}$/).map((word) => `n-${word}`);
  const value = fc.string({ maxLength: 20 });
  const locator = fc
    .record({
      by: fc.constantFrom('css', 'xpath', 'link', 'partial link', 'tag'),
      value,
      match: fc.constantFrom(undefined, 2, 7),
    })
    .map(({ match, ...rest }) => ({ ...rest, ...(match ? { match } : {}) }));
  const target: fc.Arbitrary<Target> = locator.map((found) => ({ locator: found }));
  const subject = fc.oneof(
    fc.constant({ what: 'title' as const }),
    target.map((of) => ({ what: 'text' as const, of })),
    fc.tuple(value, target).map(([key, of]) => ({ what: 'attribute' as const, key, of })),
  );
  const ms = fc.integer({ min: 0, max: 20_000 });
  const statement: fc.Arbitrary<Statement> = fc.oneof(
    value.map((address): Statement => ({ do: 'open', address })),
    fc.tuple(name, locator).map(([found, where]): Statement => ({ do: 'find', name: found, locator: where })),
    target.map((of): Statement => ({ do: 'press', target: of })),
    fc.tuple(value, target).map(([text, of]): Statement => ({ do: 'type', text, target: of })),
    fc
      .tuple(subject, value)
      .map(([of, expected]): Statement => ({ do: 'check', subject: of, comparison: 'is not', value: expected })),
    fc.tuple(subject, value, ms, ms).map(([of, expected, limitMs, everyMs]): Statement => ({
      do: 'wait',
      until: { kind: 'value', subject: of, comparison: 'contains', value: expected },
      limitMs,
      everyMs,
    })),
    ms.map((pause): Statement => ({ do: 'pause', ms: pause })),
    fc.constant<Statement>({ do: 'reload' }),
  );

  it('what is printed reads back to the same drill', () => {
    fc.assert(
      fc.property(value, fc.array(statement, { minLength: 1, maxLength: 12 }), (title, statements) => {
        const lines = statements.map((one, i) => ({ ...one, line: i + 3 }));
        const { drill, errors } = parseDrill(printDrill({ title, lines }));
        expect(errors).toEqual([]);
        expect(drill).toEqual({ title, lines });
      }),
    );
  });
});

describe('from evidence', () => {
  const found = step(100, 108, { action: 'find', command: 'find element', locator: css('#hold'), element: 'e1' });
  const field = step(110, 118, { action: 'find', command: 'find element', locator: css('#name'), element: 'e2' });
  const events = [
    step(0, 90, { action: 'open', command: 'navigate to', input: 'http://ferry.test/' }),
    found,
    element(95, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat' }),
    field,
    step(119, 150, {
      action: 'type',
      command: 'element send keys',
      locator: css('#name'),
      foundBy: field.id,
      input: 'Ada',
    }),
    step(450, 460, {
      action: 'press',
      command: 'element click',
      locator: css('#hold'),
      foundBy: found.id,
      error: stale,
    }),
    step(470, 500, { action: 'picture', command: 'take screenshot' }),
  ];

  it('holds elements where the test held them, keeps its pace, and ends at the failing step', () => {
    const { drill, remarks } = drillFromEvidence(prepare(events, facts('failed', stale.message)), 'holds');
    expect(printDrill(drill)).toBe(`drill "holds"

open "http://ferry.test/"
find hold-seat = css "#hold"
type "Ada" into css "#name"
pause 300 ms
press hold-seat
`);
    expect(remarks).toEqual([]);
  });

  it('turns a told check on a read value into a check', () => {
    const read = step(200, 205, { action: 'read', command: 'get title', subject: 'title', result: 'Old' });
    const { drill } = drillFromEvidence(
      prepare([events[0]!, read, check(206, false, 'New', 'Old')], facts('failed', 'expected "New" but got "Old"')),
      'x',
    );
    expect(printDrill(drill)).toContain('check title is "New"');
  });

  it('finds the expected value in the failure when no check was told', () => {
    const read = step(200, 205, { action: 'read', command: 'get title', subject: 'title', result: 'Old' });
    const { drill } = drillFromEvidence(
      prepare([events[0]!, read], facts('failed', 'expected "New" but got "Old"')),
      'x',
    );
    expect(printDrill(drill)).toContain('check title is "New"');
  });

  it('asks for a masked value by name instead of repeating the mask', () => {
    const type = step(119, 150, {
      action: 'type',
      command: 'element send keys',
      locator: css('#code'),
      input: maskMark,
    });
    const { drill } = drillFromEvidence(prepare([events[0]!, type], facts('passed')), 'x');
    expect(printDrill(drill)).toContain('type secret "code" into css "#code"');
  });

  it('what cannot be carried over is said', () => {
    const cookie = step(119, 150, { action: 'cookie', command: 'add cookie', label: 'add cookie' });
    expect(drillFromEvidence(prepare([events[0]!, cookie], facts('passed')), 'x').remarks).toEqual([
      'not carried over: add cookie (add cookie)',
    ]);
  });

  it('gives names that are no words of the language', () => {
    const title = step(10, 20, { action: 'find', command: 'find element', locator: css('title') });
    const use = step(100, 110, { action: 'press', command: 'element click', locator: css('title'), foundBy: title.id });
    const other = step(30, 40, { action: 'find', command: 'find element', locator: css('p') });
    const { drill } = drillFromEvidence(prepare([title, other, use], facts('passed')), 'x');
    expect(parseDrill(printDrill(drill)).errors).toEqual([]);
    expect(printDrill(drill)).toContain('press the-title');
  });
});
