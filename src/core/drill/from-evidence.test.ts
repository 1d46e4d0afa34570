import { describe, expect, it } from 'vitest';
import { prepare } from '../evidence/prepare.ts';
import type { EvidenceEvent, StepEvent } from '../evidence/event.ts';
import { otherCommand } from '../evidence/command-names.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { check, css, element, facts, missing, stale, step } from '../evidence/samples.ts';
import { maskMark } from '../evidence/masking.ts';
import { drillFromEvidence } from './from-evidence.ts';
import { parseDrill } from './parse.ts';
import { printDrill } from './print.ts';

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
      expect.stringContaining('not carried over: add cookie'),
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

describe('waits and checks, with the help of attempts that passed', () => {
  const open = step(0, 90, { action: 'open', command: 'navigate to', input: 'http://ferry.test/' });
  const looked = (at: number, locator: string, result?: string): StepEvent[] => {
    const find = step(at, at + 4, {
      action: 'find',
      command: 'find element',
      locator: css(locator),
      ...(result === undefined ? { error: missing } : { element: `e${at}` }),
    });
    if (result === undefined) return [find];
    const read = step(at + 5, at + 8, {
      action: 'read',
      command: otherCommand,
      subject: 'text',
      locator: css(locator),
      foundBy: find.id,
      result,
    });
    return [find, read];
  };
  const polled = (values: (string | undefined)[], locator = '.fare', from = 100): StepEvent[] =>
    values.flatMap((value, i) => looked(from + i * 60, locator, value));
  const counted = (values: number[]): StepEvent[] =>
    values.map((result, i) =>
      step(100 + i * 60, 105 + i * 60, { action: 'find', command: 'find elements', locator: css('.sailing'), result }),
    );
  const passed = (events: StepEvent[]) => prepare([open, ...events], facts('passed'));
  const drilled = (events: EvidenceEvent[], message: string, passing: Evidence[] = []) => {
    const { drill, remarks } = drillFromEvidence(prepare([open, ...events], facts('failed', message)), 'x', {
      passing,
    });
    const text = printDrill(drill);
    expect(parseDrill(text).errors).toEqual([]);
    return { text, remarks };
  };

  it('a wait that ran out while its text went on changing waits for what it ends at where it passes', () => {
    const { text } = drilled(polled(['…', 'one moment', 'nearly', 'soon']), 'Timed out after 200 ms', [
      passed(polled(['…', 'soon', '€ 12'])),
      passed(polled(['one moment', '€ 12'])),
    ]);
    expect(text).toContain('wait until text of css ".fare" is "€ 12"');
  });

  it('what it ends at may differ each time: its shape is waited for', () => {
    const { text } = drilled(polled(['…', 'one moment']), 'Timed out', [
      passed(polled(['…', 'LF-4821'])),
      passed(polled(['…', 'LF-77'])),
    ]);
    expect(text).toContain('matches "^LF-\\\\d+$"');
  });

  it('without a passing attempt the message may name it; else a remark says what is not known', () => {
    expect(drilled(polled(['…', 'soon']), 'expected "€ 12" but got "soon"').text).toContain('is "€ 12"');
    const unknown = drilled(polled(['…', 'soon']), 'Timed out');
    expect(unknown.text).toContain('is not "soon"');
    expect(unknown.remarks).toEqual([expect.stringContaining('no passing attempt shows its end')]);
  });

  it('a wait whose every look was a failed find is kept, with what it was for', () => {
    expect(drilled(polled([undefined, undefined, undefined]), 'Timed out').text).toContain(
      'wait until css ".fare" is there',
    );
    expect(
      drilled(polled([undefined, undefined]), 'Timed out', [passed(polled([undefined, '…', '€ 12']))]).text,
    ).toContain('text of css ".fare" is "€ 12"');
  });

  it('what was so at the first look is still a wait where another attempt waited', () => {
    const { text } = drilled(
      [...looked(100, '.fare', '€ 12'), step(400, 410, { action: 'navigate', command: 'back', error: stale })],
      'x',
      [passed(polled(['…', '…', '€ 12']))],
    );
    expect(text).toContain('wait until text of css ".fare" is "€ 12" up to 5 s');
  });

  it('at least five of them, when fewer were not enough', () => {
    const { text } = drilled(counted([0, 3, 4]), 'expected at least 5 sailings', [passed(counted([0, 2, 6]))]);
    expect(text).toContain('wait until count of css ".sailing" is at least 5');
    expect(drilled(counted([0, 0]), 'Timed out', [passed(counted([0, 6]))]).text).toContain(
      'wait until count of css ".sailing" is at least 1',
    );
  });

  it('a wait for something to go', () => {
    const { text } = drilled(
      [
        ...polled(['loading', 'loading', undefined], '.busy'),
        step(900, 910, { action: 'navigate', command: 'back', error: stale }),
      ],
      'x',
    );
    expect(text).toContain('wait until css ".busy" is gone');
  });

  it('a step that was taken only where there was something to take it on', () => {
    const offers = counted([2])[0]!;
    const press = step(120, 130, {
      action: 'press',
      command: 'element click',
      locator: css('.sailing'),
      foundBy: offers.id,
    });
    const { text } = drilled(
      [counted([0])[0]!, step(120, 130, { action: 'navigate', command: 'back', error: stale })],
      'x',
      [passed([offers, press])],
    );
    expect(text).toContain('when css ".sailing" is there then press css ".sailing"');
  });

  it('a step that was taken only upon an answer, or where the look for it had not failed', () => {
    const agree = (result: boolean): StepEvent[] => {
      const find = step(100, 104, { action: 'find', command: 'find element', locator: css('#agree') });
      return [
        find,
        step(105, 108, {
          action: 'read',
          command: 'is displayed' as never,
          subject: 'displayed',
          locator: css('#agree'),
          foundBy: find.id,
          result,
        }),
      ];
    };
    const press = (at: number, foundBy?: string, on = '#agree'): StepEvent =>
      step(at, at + 10, {
        action: 'press',
        command: 'element click',
        locator: css(on),
        ...(foundBy === undefined ? {} : { foundBy }),
      });
    const end = step(300, 310, { action: 'navigate', command: 'back', error: stale });
    const go = press(200, undefined, '#go');
    const upon = drilled([...agree(false), go, end], 'x', [passed([...agree(true), press(120), go])]);
    expect(upon.text).toContain('when displayed of css "#agree" is "true" then press css "#agree"');
    expect(upon.text.match(/press css "#agree"/g)).toHaveLength(1);
    // What this attempt does as well hangs on nothing, nor does what nobody does upon another answer.
    for (const [own, others] of [
      [
        [...agree(false), press(120), end],
        [...agree(true), press(120)],
      ],
      [
        [...agree(false), go, end],
        [...agree(true), go, press(260)],
      ],
      [
        [...agree(false), go, end],
        [...agree(false), press(120), go],
      ],
    ])
      expect(drilled(own!, 'x', [passed(others!)]).text).not.toContain('when');
    const asked = (result: boolean): StepEvent =>
      step(100, 104, { action: 'script', command: 'execute script', input: 'return asked()', result });
    const english = drilled([asked(false), go, end], 'x', [passed([asked(true), press(120, undefined, '#en'), go])]);
    expect(english.text).toContain('when answer of script "return asked()" is "true" then press css "#en"');

    const bag = (more: object): StepEvent =>
      step(100, 104, { action: 'find', command: 'find element', locator: css('#bag'), ...more });
    const missed = bag({ error: { code: 'no such element', message: 'none' } });
    const had = bag({ element: 'e9' });
    const swallowed = drilled([missed, go, end], 'x', [passed([had, press(120, had.id, '#bag'), go])]);
    expect(swallowed.text).toContain('when css "#bag" is there then press css "#bag"');
    expect(drilled([missed, go, end], 'x').text).toContain('read count of css "#bag"');
  });

  it('what was polled is what is waited for, whatever a passing attempt read right after it', () => {
    const shown = (at: number, result: boolean, subject = 'displayed'): StepEvent[] => {
      const find = step(at, at + 4, { action: 'find', command: 'find element', locator: css('.link') });
      const command = subject === 'displayed' ? 'is displayed' : 'get element property';
      const read = step(at + 5, at + 8, {
        action: 'read',
        command: otherCommand,
        subject,
        locator: css('.link'),
        foundBy: find.id,
        result,
      });
      return [find, { ...read, data: { ...read.data, command: command as never } }];
    };
    const later = shown(200, true, 'property href')[1]!;
    const { text } = drilled([...shown(100, false), ...shown(160, false), ...shown(220, false)], 'Timed out', [
      passed([...shown(100, true), { ...later, at: 110, until: 112 }]),
    ]);
    expect(text).toContain('wait until displayed of css ".link" is "true"');
  });

  it('a check is compared as the test compared it', () => {
    const read = (result: string) => looked(100, 'h1', result);
    const told = (expected: string, actual: string, ok: boolean) => check(109, ok, expected, actual);
    const contains = drilled(
      [...read('Held by Ada'), told('Deniz', 'Held by Ada', false)],
      'expected text to contain "Deniz"',
      [prepare([open, ...read('Held by Deniz'), told('Deniz', 'Held by Deniz', true)], facts('passed'))],
    );
    expect(contains.text).toContain('check text of css "h1" contains "Deniz"');
    expect(drilled([...read('3 left'), told('5', '3 left', false)], 'expected at least 5 but got 3').text).toContain(
      'is at least 5',
    );
  });

  it('a read that failed for a reason told nowhere is compared with what it is where it passes', () => {
    expect(drilled(looked(100, 'h1', 'Old'), 'assertion failed', [passed(looked(100, 'h1', 'New'))]).text).toContain(
      'check text of css "h1" is "New"',
    );
    expect(drilled(looked(100, 'h1', 'Old'), 'assertion failed').remarks).toEqual([
      expect.stringContaining('the last line cannot fail'),
    ]);
  });
});

describe('what one command takes from another', () => {
  const open = step(0, 90, { action: 'open', command: 'navigate to', input: 'http://ferry.test/' });
  const seat = step(91, 95, { action: 'find', command: 'find element', locator: css('#seat'), element: 's1' });
  const made = (...events: EvidenceEvent[]) => {
    const { drill, remarks } = drillFromEvidence(prepare([open, ...events], facts('passed')), 'x');
    const text = printDrill(drill);
    expect(parseDrill(text).errors).toEqual([]);
    return { lines: text.split('\n').slice(3, -1), remarks };
  };
  const actions = (at: number, list: object[], given?: StepEvent['data']['given']): StepEvent =>
    step(at, at + 10, {
      action: 'keys',
      command: 'perform actions',
      input: JSON.stringify({ actions: [{ type: 'pointer', id: 'm', actions: list }] }),
      ...(given ? { given } : {}),
    });
  const press = [
    { type: 'pointerDown', button: 0 },
    { type: 'pointerUp', button: 0 },
  ];

  it('a place that a script measured is measured anew', () => {
    const script = step(100, 105, {
      action: 'script',
      command: 'execute script',
      input: 'return arguments[0].getBoundingClientRect()',
      arguments: [{ 'element-6066-11e4-a52e-4f735466cecf': 's1' }],
      given: { s1: { locator: css('#seat'), foundBy: seat.id } },
      result: { x: 100, y: 40, width: 60, height: 20 },
    });
    const { lines } = made(
      seat,
      script,
      actions(110, [{ type: 'pointerMove', x: 130, y: 50, origin: 'viewport' }, ...press]),
    );
    expect(lines).toEqual([
      'remember the-place = script "return arguments[0].getBoundingClientRect()" with css "#seat"',
      'click the-place.x + 30, the-place.y + 10',
    ]);
  });

  it('a place nobody measured stays as it was', () => {
    expect(made(actions(100, [{ type: 'pointerMove', x: 130, y: 50, origin: 'viewport' }, ...press])).lines).toEqual([
      'click 130, 50',
    ]);
  });

  it('pointers in words: hover, twice, the right button, drag', () => {
    const origin = { 'element-6066-11e4-a52e-4f735466cecf': 's1' };
    const given = { s1: { locator: css('#seat'), foundBy: seat.id } };
    const move = { type: 'pointerMove', x: 0, y: 0, origin };
    const right = press.map((one) => ({ ...one, button: 2 }));
    const drag = [move, press[0]!, { type: 'pointerMove', x: 30, y: 5, origin: 'pointer' }, press[1]!];
    const { lines } = made(
      seat,
      actions(96, [move], given),
      actions(107, [move, ...press, ...press], given),
      actions(118, [{ ...move, x: 3 }, ...right], given),
      actions(129, drag, given),
      // A pointer that travels gives the page time to change under it.
      actions(140, [{ ...move, duration: 1500 }, ...press], given),
    );
    expect(lines).toEqual([
      'find seat = css "#seat"',
      'hover seat',
      'click twice seat',
      'click right seat offset 3, 0',
      'drag seat by 30, 5',
      'click seat over 1500 ms',
    ]);
  });

  it('keys by name', () => {
    const down = (value: string) => ({ type: 'keyDown', value });
    const up = (value: string) => ({ type: 'keyUp', value });
    const keys = step(100, 110, {
      action: 'keys',
      command: 'perform actions',
      input: JSON.stringify({
        actions: [
          {
            type: 'key',
            id: 'k',
            actions: [down('\uE009'), down('a'), up('a'), up('\uE009'), down('\uE015'), up('\uE015')],
          },
        ],
      }),
    });
    expect(made(keys).lines).toEqual(['keys "Control+a, Arrow down"']);
  });

  it('a code that was read and typed is read anew', () => {
    const read = step(100, 105, {
      action: 'read',
      command: otherCommand,
      subject: 'text',
      locator: css('.code'),
      result: 'LF-4821',
    });
    const type = step(110, 120, {
      action: 'type',
      command: 'element send keys',
      locator: css('#code'),
      input: 'LF-4821',
    });
    const { lines } = made(read, type);
    expect(lines).toEqual(['remember text-read = text of css ".code"', 'type text-read into css "#code"']);
  });

  it('the newest window, limits, sizes, dialogs, cookies', () => {
    const opened = (at: number, context: string) =>
      ({ id: `w${context}`, lane: 'window', kind: 'opened', at, clock: 'browser', data: { context } }) as EvidenceEvent;
    const to = (at: number, handle: string, number: number) =>
      step(at, at + 2, { action: 'window', command: 'switch to window', handle, number });
    const { lines, remarks } = made(
      opened(1, 'A'),
      step(92, 93, { action: 'settings', command: 'set timeouts', pageLoad: 4000, script: 900 }),
      step(94, 95, { action: 'window', command: 'set window rect', input: '{"width":800,"height":600}' }),
      opened(100, 'B'),
      to(101, 'B', 2),
      to(104, 'A', 1),
      step(107, 108, { action: 'dialog', command: 'send alert text', input: 'yes' }),
      step(109, 110, { action: 'dialog', command: 'accept alert' }),
      step(111, 112, { action: 'cookie', command: 'add cookie', input: 'lang' }),
      step(113, 114, { action: 'cookie', command: 'delete cookies' }),
    );
    expect(lines).toEqual([
      'limit page load 4 s',
      'limit script 900 ms',
      'window 800 x 600',
      'switch to newest window',
      'switch to window 1',
      'accept dialog with "yes"',
      'forget cookies',
    ]);
    expect(remarks).toEqual([expect.stringContaining('the cookie “lang”')]);
  });
});

describe('what was there in every attempt, and what was checked in parts', () => {
  const open = step(0, 90, { action: 'open', command: 'navigate to', input: 'http://ferry.test/' });
  const read = (at: number, locator: string, result: string, index = 0): StepEvent =>
    step(at, at + 5, {
      action: 'read',
      command: otherCommand,
      subject: 'text',
      locator: index ? { ...css(locator), index } : css(locator),
      result,
    });
  const find = (at: number, locator: string, failed = false): StepEvent =>
    step(at, at + 4, {
      action: 'find',
      command: 'find element',
      locator: css(locator),
      ...(failed ? { error: missing } : { element: `e${at}` }),
    });
  const passed = (...events: EvidenceEvent[]) => prepare([open, ...events], facts('passed'));
  const drilled = (message: string, events: EvidenceEvent[], ...passing: Evidence[]): string[] => {
    const { drill } = drillFromEvidence(prepare([open, ...events], facts('failed', message)), 'x', { passing });
    const text = printDrill(drill);
    expect(parseDrill(text).errors).toEqual([]);
    return text.split('\n').slice(3, -1);
  };

  it('what had come at once here, and was waited for elsewhere, is waited for before it is checked', () => {
    const message = "tool shown: expected 'Telescopic ladder' but got 'Heat gun'";
    const here = [find(100, 'h1'), read(106, 'h1', 'Heat gun')];
    const there = [100, 160, 220].flatMap((at, i) => [
      find(at, 'h1'),
      read(at + 6, 'h1', i < 2 ? 'Tools to borrow' : 'Telescopic ladder'),
    ]);
    const plain = [find(100, 'h1'), read(106, 'h1', 'Telescopic ladder')];
    expect(drilled(message, here, passed(...there), passed(...plain))).toEqual([
      'wait until text of css "h1" is not "Tools to borrow" up to 5 s every 49 ms',
      'check text of css "h1" is "Telescopic ladder"',
    ]);
    // Where no attempt waited, nothing is waited for but that it is there.
    expect(drilled(message, here, passed(...plain)).join('\n')).not.toContain('is not');
  });

  it('an element that came at once each time is given time to come', () => {
    const press = (at: number, by: StepEvent, failed = false) =>
      step(at, at + 5, {
        action: 'press',
        command: 'element click',
        locator: css('#go'),
        foundBy: by.id,
        ...(failed ? { error: stale } : {}),
      });
    const own = find(100, '#go');
    const other = find(100, '#go');
    expect(drilled('x', [own, press(105, own, true)], passed(other, press(105, other)))).toEqual([
      'wait until css "#go" is there up to 5 s every 50 ms',
      'find go = css "#go"',
      'press go',
    ]);
    // Finds that wait by themselves need no help.
    const implicit = step(91, 92, { action: 'settings', command: 'set timeouts', implicit: 1500 });
    expect(drilled('x', [implicit, own, press(105, own, true)], passed(implicit, other, press(105, other)))).toEqual([
      'implicit 1500 ms',
      'find go = css "#go"',
      'press go',
    ]);
    // Alone, nothing says that it comes each time.
    expect(drilled('x', [own, press(105, own)])).toEqual(['press css "#go"']);
    // What went stale was held, however shortly.
    expect(drilled('x', [own, press(105, own, true)])).toEqual(['find go = css "#go"', 'press go']);
  });

  it('a part of what was read, checked', () => {
    const text = read(100, '.terms', 'Loans run up to 7 days. Deposit £ 25.');
    const told = check(106, false, 'up to 14 days', 'up to 7 days');
    expect(drilled("expected 'up to 14 days' but got 'up to 7 days'", [text, told])).toEqual([
      'check text of css ".terms" contains "up to 14 days"',
    ]);
  });

  it('several reads that the test joined', () => {
    const reads = ['Tiller', 'Drill', 'Mixer'].map((name, i) => read(100 + i * 6, '.wish', name, i));
    expect(drilled("order: expected 'Drill, Tiller, Mixer' but got 'Tiller, Drill, Mixer'", reads)).toEqual([
      'check text of css ".wish" is "Drill"',
      'check text of css ".wish" match 2 is "Tiller"',
      'check text of css ".wish" match 3 is "Mixer"',
    ]);
  });

  it('and those that it made numbers of', () => {
    const reads = ['£10.25', '£3.50'].map((price, i) => read(100 + i * 6, '.price', price, i));
    expect(drilled("expected '3.5 10.25' but got '10.25 3.5'", reads)).toEqual([
      'check text of css ".price" is "£3.50"',
      'check text of css ".price" match 2 is "£10.25"',
    ]);
  });

  it('asked until it was there, and then not what was expected', () => {
    const events = [find(100, '.chip', true), find(160, '.chip'), read(165, '.chip', 'Petrol')];
    expect(drilled("chip: expected 'Cordless' but got 'Petrol'", events)).toEqual([
      'wait until css ".chip" is there up to 5 s every 100 ms',
      'check text of css ".chip" is "Cordless"',
    ]);
  });
});
