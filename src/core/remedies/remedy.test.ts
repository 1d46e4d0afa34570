import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drillFromEvidence } from '../drill/from-evidence.ts';
import { parseDrill } from '../drill/parse.ts';
import { printDrill } from '../drill/print.ts';
import { check, css, element, page, press, reads, step, url, windowEvent } from '../evidence/samples.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { causeCodes, type CauseCode } from '../causes/cause.ts';
import { changed, type Change } from './change.ts';
import { withRemedy } from './merge.ts';
import { remediesOf, type Remedy } from './remedy.ts';
import { advised, failed, opened, told, types } from './samples.ts';
import type { Told } from './told.ts';

/** Advice as drills: each kind on the smallest attempts that call for it. */

const last = ({ evidence }: Told) => [evidence.steps.at(-1)!];
const made = (subject: Told, passing: readonly Told[] = []) =>
  drillFromEvidence(subject.evidence, 'holds a seat', { passing: passing.map(({ evidence }) => evidence) });

/** The lines that the first remedy brings, and those it takes away. */
function remedy(
  cause: CauseCode,
  subject: Told,
  passing: readonly Told[] = [],
  more: Parameters<typeof advised>[3] = {},
): { more: string[]; less: string[]; all: Remedy[] } {
  const drill = made(subject, passing);
  const all = remediesOf(advised(cause, subject, passing, { shows: last(subject), ...more }), drill);
  const lines = (text: string): string[] => text.split('\n').filter((line) => line !== '' && !line.startsWith('#'));
  const before = lines(remediesText(drill));
  const after = lines(all[0]?.drill ?? '');
  return {
    more: after.filter((one) => !before.includes(one)),
    less: before.filter((one) => !after.includes(one)),
    all,
  };
}
const remediesText = (drill: ReturnType<typeof made>): string => printDrill(drill.drill);

describe('a remedy', () => {
  it('waits for what every passing attempt had before the step', () => {
    const pressed = (enabledAt: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        element(20, 'appeared', 'css=#go', { node: 2, tag: 'button', name: 'Go', enabled: false }),
        element(enabledAt, 'changed', 'css=#go', { node: 2, tag: 'button', name: 'Go', enabled: true }),
        press(300, '#go'),
        step(400, 900, {
          action: 'find',
          command: 'find element',
          locator: css('#held'),
          ...(make === failed ? { error: { code: 'no such element', message: 'no' } } : {}),
        }),
      ]);
    const subject = pressed(420, failed);
    const found = remedy('early-action', subject, [pressed(200), pressed(150)], {
      shows: [subject.evidence.steps[1]!],
    });
    expect(found.more).toEqual(['wait until enabled of css "#go" is "true" up to 10 s every 50 ms']);
    expect(found.less).toEqual([]);
    expect(found.all[0]).toMatchObject({ cause: 'early-action', kind: 'condition' });
  });

  it('finds what was held anew right before it is used', () => {
    const held = (replacedAt: number | undefined, make: typeof told = told): Told => {
      const find = step(100, 110, { action: 'find', command: 'find element', locator: css('#go'), element: 'e1' });
      return make([
        ...opened(),
        element(20, 'appeared', 'css=#go', { node: 2, tag: 'button', name: 'Go' }),
        find,
        ...(replacedAt === undefined
          ? []
          : [element(replacedAt, 'replaced', 'css=#go', { node: 3, tag: 'button', name: 'Go' })]),
        press(600, '#go', {
          foundBy: find.id,
          ...(make === failed ? { error: { code: 'stale element reference', message: 'stale' } } : {}),
        }),
      ]);
    };
    const found = remedy('replaced-element', held(300, failed), [held(undefined)]);
    expect(found.more).toEqual(['press css "#go"']);
    expect(found.less).toEqual(['press go']);
  });

  it('lets a wait take longer, and looks again where it looked once', () => {
    const waited = (came: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        element(100 + came, 'appeared', 'css=#card', { node: 4, name: 'card' }),
        step(100, 100 + Math.min(came, 900), {
          action: 'find',
          command: 'find element',
          locator: css('#card'),
          ...(came > 900 ? { error: { code: 'no such element', message: 'no such element' } } : {}),
        }),
      ]);
    expect(remedy('slow-response', waited(1400, failed), [waited(310)]).more).toEqual([
      'wait until css "#card" is there up to 4500 ms every 50 ms',
    ]);
    const pressed = (ms: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        step(100, 100 + ms, {
          action: 'press',
          command: 'element click',
          locator: css('#go'),
          ...(make === failed ? { error: { code: 'timeout', message: 'timeout' } } : {}),
        }),
      ]);
    // What the protocol calls a timeout is a page that did not load in time.
    expect(remedy('slow-response', pressed(2000, failed), [pressed(80)]).more).toEqual(['limit page load 6 s']);
    const read = (value: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        element(50, 'appeared', 'css=#sum', { node: 4, name: '1 lira', text: '1 lira' }),
        reads(100, value, '#sum'),
        check(101, make !== failed, '3 lira', value),
        ...(make === failed ? [element(260, 'changed', 'css=#sum', { node: 4, name: '3 lira', text: '3 lira' })] : []),
      ]);
    const once = read('1 lira', failed);
    const found = remedy('early-check', once, [read('3 lira'), read('3 lira')]);
    expect(found.more).toEqual(['wait until text of css "#sum" is "3 lira" up to 5 s every 50 ms']);
    expect(found.all[0]!.words).toContain('look again until it reads “3 lira”');
  });

  it('goes to the window, answers the dialog, takes the step, types what passes', () => {
    const answered = (make: typeof told): Told =>
      make([
        ...opened(),
        windowEvent(50, 'dialog-opened', { context: 'w1', text: 'Leave?' }),
        ...(make === failed
          ? []
          : [step(60, 65, { action: 'dialog', command: 'accept alert', label: 'Accept the dialog' })]),
        press(100, '#go', make === failed ? { error: { code: 'unexpected alert open', message: 'open' } } : {}),
      ]);
    expect(remedy('unexpected-dialog', answered(failed), [answered(told), answered(told)]).more).toEqual([
      'wait until dialog is "Leave?" up to 10 s every 50 ms',
      'accept dialog',
    ]);
    const typed = (who: string, make: typeof told = told): Told =>
      make([...opened(), types(50, who), press(100, '#go')]);
    expect(remedy('random-data', typed("O'Neil", failed), [typed('Kaya'), typed('Demir')]).more).toEqual([
      'type "Kaya" into css "#who"',
    ]);
    const taken = (make: typeof told): Told =>
      make([...opened(), ...(make === failed ? [] : [press(60, '#agree')]), press(120, '#go'), press(180, '#pay')]);
    expect(remedy('missing-step', taken(failed), [taken(told), taken(told)]).more).toEqual([
      'wait until css "#agree" is there up to 10 s every 50 ms',
      'press css "#agree"',
    ]);
  });

  it('can always be read, and differs from the drill, whatever is suspected', () => {
    const any = (make: typeof told, seed: number): Told => {
      const events: EvidenceEvent[] = [
        ...opened(),
        page(30, 'title', { title: 'Fares' }),
        element(40, 'appeared', 'css=#go', {
          node: 2,
          tag: 'button',
          name: 'Go "now"',
          text: 'Go',
          enabled: seed % 2 > 0,
        }),
        element(60 + seed * 40, 'changed', 'css=#go', { node: 2, tag: 'button', name: 'Go "now"', enabled: true }),
        types(90, `x${seed}`),
        press(120, '#go'),
        reads(200, String(seed % 3), '#n'),
        press(320, '#go', make === failed ? { error: { code: 'stale element reference', message: 'stale' } } : {}),
      ];
      return make(events);
    };
    fc.assert(
      fc.property(
        fc.constantFrom(...causeCodes),
        fc.nat(8),
        fc.array(fc.nat(8), { maxLength: 3 }),
        (cause, seed, others) => {
          const subject = any(failed, seed);
          const passing = others.map((one) => any(told, one));
          const drill = made(subject, passing);
          const before = printDrill(drill.drill);
          for (const one of remediesOf(advised(cause, subject, passing, { shows: last(subject) }), drill)) {
            expect(parseDrill(one.drill).errors).toEqual([]);
            expect(one.drill.split('\n').filter((line) => !line.startsWith('#'))).not.toEqual(before.split('\n'));
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('is none where the drill has no line for the step', () => {
    const drill = made(told([...opened(), press(100, '#go')]));
    const change: Change = { do: 'wait longer', limitMs: 900 };
    expect(changed(drill, { at: ['nowhere'], change })).toBeUndefined();
    expect(drill.origins).toHaveLength(drill.drill.lines.length);
  });
});

describe('a drill that people changed', () => {
  const drill = (...lines: string[]): string => ['drill "x"', '# of an attempt', '', ...lines, ''].join('\n');
  const was = drill('open "/a"', 'press css "#b"', 'press css "#c"', 'press css "#d"');
  const now = drill(
    'open "/a"',
    'press css "#b"',
    'wait until css "#c" is there up to 1 s every 50 ms',
    'press css "#c"',
    'press css "#d"',
  );

  it('gets the remedy where it still fits, with what they changed', () => {
    expect(withRemedy(was, now, was)).toBe(now);
    const own = drill('open "/a2"', '# mine', 'press css "#b"', 'press css "#c"', 'press css "#d"', 'read title');
    const merged = withRemedy(was, now, own)!;
    expect(merged).toContain('open "/a2"');
    expect(merged).toContain('wait until css "#c" is there');
    expect(merged).toContain('read title');
  });

  it('and none where they changed that very place', () => {
    expect(withRemedy(was, now, drill('open "/a"', 'keys "x"', 'keys "y"', 'keys "z"'))).toBeUndefined();
  });
});

/** Goes on by the same press on two pages, of which the second comes at a time, to what is looked for at the end. */
const twice = (nextAt: number, make: typeof told = told, on: readonly EvidenceEvent[] = []): Told =>
  make([
    ...opened('/hold'),
    ...on,
    press(100, '#next'),
    page(nextAt, 'navigation-committed', { address: `${url}/extras` }),
    press(400, '#next'),
    step(800, 1900, {
      action: 'find',
      command: 'find element',
      locator: css('#summary'),
      ...(make === failed ? { error: { code: 'no such element', message: 'no' } } : {}),
    }),
  ]);

it('what was done on a page that was being left is done on the next one, not only waited for after it', () => {
  const subject = twice(600, failed);
  const { all, more } = remedy('navigation-race', subject, [twice(200), twice(300)]);
  expect(all[0]!.words).toMatch(/^Before Press on “#next”, wait until the address is \/extras/);
  expect(more).toHaveLength(1);
  const lines = all[0]!.drill.split('\n').filter((line) => !line.startsWith('#'));
  const [first, second] = lines.flatMap((line, i) => (line.startsWith('press') ? [i] : []));
  expect([lines.indexOf(more[0]!) > first!, lines.indexOf(more[0]!) < second!]).toEqual([true, true]);
  // A page that stays says nothing of the kind.
  const stayed = remedy('navigation-race', failed([...opened('/hold'), press(100, '#next'), press(400, '#next')]), [
    told([...opened('/hold'), press(100, '#next'), press(400, '#next')]),
  ]);
  expect(stayed.all.map(({ words }) => words).join()).not.toContain('address');
});

it('a page that came by a press is ready by the sign that the test waits for on those it opens', () => {
  const looks = (at: number, locator = 'html.live') =>
    step(at, at + 20, { action: 'find', command: 'find element', locator: css(locator) });
  const live = (at: number, node: number) =>
    element(at, 'appeared', 'css=html.live', { node, tag: 'html', name: 'page' });
  const signed = (nextAt: number, make: typeof told = told, sign = 'html.live'): Told =>
    twice(nextAt, make, [live(15, 1), looks(30, sign), live(nextAt + 60, 2)]);
  const { all, more } = remedy('navigation-race', signed(600, failed), [signed(200), signed(300)]);
  expect(more.at(-1)).toBe('wait until css "html.live" is there up to 10 s every 50 ms');
  expect(more).toHaveLength(2);
  expect(all[0]!.words).toContain('and then until “html.live” is there, as on the pages that the test opens');
  // What is looked for on one page only says nothing of another, unless it is a mark on the document.
  const other = remedy('navigation-race', signed(600, failed, '#guests'), [signed(200, told, '#guests')]);
  expect(other.more).toHaveLength(1);
});

it('the address a page is known by fits what it was drawn from', () => {
  const subject = failed([...opened('/sailings/1840'), press(100, '#go')]);
  const there = (path: string): Told =>
    told([
      ...opened('/sailings/1840'),
      page(60, 'navigation-committed', { address: `${url}${path}` }),
      press(100, '#go'),
    ]);
  const { more } = remedy('navigation-race', subject, [there('/held/77'), there('/held/78')]);
  const pattern = /address matches ("[^\n]*") up to/.exec(more.join('\n'))?.[1];
  expect(new RegExp(JSON.parse(pattern!) as string).test(`${url}/held/79?x=1`)).toBe(true);
  expect(new RegExp(JSON.parse(pattern!) as string).test(`${url}/other`)).toBe(false);
});
