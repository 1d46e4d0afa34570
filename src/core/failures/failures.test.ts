import { describe, expect, it } from 'vitest';
import { bodiless, familyId, fingerprint, normaliseMessage, wordless } from '../families/fingerprint.ts';
import { prepare } from '../evidence/prepare.ts';
import { css, element, facts, intercepted, reads, stale, step } from '../evidence/samples.ts';
import { markupName } from './markup.ts';
import { readFailure } from './read.ts';
import { frameText, readStack } from './stack.ts';

const press = (error: { code: string; message: string }) =>
  step(400, 420, { action: 'press', command: 'element click', locator: css('#hold'), error });
const lifeline = element(100, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat', visible: true });
const read = (message: string, ...events: Parameters<typeof prepare>[0]) =>
  readFailure(prepare(events, facts('failed', message)))!;

describe('reading a failure', () => {
  it.each([
    [
      stale.message,
      press(stale),
      'stale-element',
      'Press on “Hold seat” hit an element that had already been replaced or removed',
    ],
    [
      intercepted.message,
      press(intercepted),
      'press-intercepted',
      'Press on “Hold seat” would have landed on “div#notice.notice.shown”, which lay over it',
    ],
    [
      'no such element: x',
      press({ code: 'no such element', message: 'no such element: x' }),
      'no-such-element',
      '“Hold seat” was not in the page',
    ],
    [
      'unexpected alert open: y',
      press({ code: 'unexpected alert open', message: 'unexpected alert open: y' }),
      'unexpected-dialog',
      'Press on “Hold seat” met a dialog that nobody had answered',
    ],
    ['timed out after 3000 ms waiting for the fare', press(stale), 'timeout', 'Waited 3 s for the fare'],
    [
      'timed out after 1500 ms waiting for element to be visible',
      press(stale),
      'timeout',
      '“Hold seat” did not become what was waited for in 1500 ms',
    ],
    [
      'timed out after 1000 ms waiting for #hold',
      { ...press(stale), data: { action: 'read', subject: 'text', locator: css('#hold'), result: '' } } as never,
      'timeout',
      // Not by what it came to say, which is what was waited for.
      '“#hold” still read nothing after 1 s',
    ],
  ])('%s', (message, event, kind, sentence) => {
    expect(read(message, lifeline, event)).toMatchObject({ kind, sentence });
  });

  it('finds point and obstructing element of a refused press', () => {
    expect(read(intercepted.message, lifeline, press(intercepted))).toMatchObject({
      point: { x: 1150, y: 610 },
      obstructing: '<div id="notice" class="notice shown">',
    });
  });

  it.each([
    ['expected "Kuzu Island" but got "Lodos Harbour"', 'Kuzu Island', 'Lodos Harbour'],
    ['Expected: "4", but was: "3"', '4', '3'],
    ["expected 'a' to equal 'b'", 'b', 'a'],
    ['expected:<[7]> but was:<[6]>', '[7]', '[6]'],
    ["'x' != 'y'", 'y', 'x'],
  ])('finds both values in %s', (message, expected, actual) => {
    expect(
      read(message, step(1, 2, { action: 'read', subject: 'text', locator: css('h1'), result: actual })),
    ).toMatchObject({ kind: 'assertion', expected, actual });
  });

  it('keeps the raw text and invents nothing when it cannot read it', () => {
    const failure = read('the moon was in the wrong house');
    expect(failure).toMatchObject({
      kind: 'driver-error',
      sentence: 'the moon was in the wrong house',
      message: 'the moon was in the wrong house',
    });
    expect(failure.expected).toBeUndefined();
    expect(failure.locator).toBeUndefined();
  });

  it('is not made for an attempt that passed', () => {
    expect(readFailure(prepare([], facts('passed')))).toBeUndefined();
  });
});

describe('stacks', () => {
  it('takes the test’s own file before a helper, and counts library frames', () => {
    const stack = `Error: x
    at call (/home/ci/shop/suite/webdriver.ts:102:9)
    at process.processTicksAndRejections (node:internal/process/task_queues:95:5)
    at holdsSeat (file:///home/ci/shop/suite/holds.seat.ts:48:3)
    at run (/home/ci/shop/node_modules/runner/index.js:1:1)`;
    expect(readStack(stack, 'suite/holds.seat.ts')).toEqual({
      ownFrame: { file: '/home/ci/shop/suite/holds.seat.ts', line: 48, column: 3, name: 'holdsSeat' },
      libraryFrames: 2,
    });
    expect(frameText(readStack(stack).ownFrame!)).toBe('webdriver.ts:102');
  });

  it('reads stacks that list the oldest frame first', () => {
    const stack =
      'File "/usr/lib/python3/site-packages/x.py", line 3, in run\n  File "tests/test_holds.py", line 12, in test_holds\n  File "/usr/lib/python3/site-packages/w.py", line 9, in click';
    expect(readStack(stack).ownFrame).toEqual({ file: 'tests/test_holds.py', line: 12, name: 'test_holds' });
  });
});

describe('families', () => {
  it('numbers, ids, quoted data and paths do not make another failure', () => {
    expect(normaliseMessage('Seat "14C" of 0f8fad5b-d9cb-469f not held after 312 ms at /srv/app/x.ts:4')).toBe(
      normaliseMessage('Seat "2A" of 7c9e6679-7425-40de not held after 9 ms at /home/ci/y.ts:88'),
    );
  });

  it('the same failure at the same step is one family, told by whichever runner', () => {
    const a = press(stale);
    const b = press({ ...stale, message: 'stale element reference: another wording' });
    const print = (event: typeof a) => fingerprint(read(event.data.error!.message, lifeline, event), event);
    expect(familyId(print(a))).toBe(familyId(print(b)));
    expect(print(press(intercepted))).not.toBe(print(a));
  });

  it('what the test calls it tells failures of one step apart, whatever the numbers in it', () => {
    const look = step(300, 310, {
      action: 'read',
      command: 'get text',
      subject: 'text',
      locator: css('h1'),
      result: 'Bags',
    });
    const print = (message: string): string => fingerprint(read(message, lifeline, look), look);
    expect(print('timed out after 900 ms waiting for heading "Guests"')).not.toBe(
      print('timed out after 900 ms waiting for heading "Summary"'),
    );
    expect(print('timed out after 900 ms waiting for 3 sailings')).toBe(
      print('timed out after 1500 ms waiting for 4 sailings'),
    );
    expect(print("total with a child: expected '4' but got '6'")).not.toBe(print("total: expected '4' but got '6'"));
    expect(print("total: expected '4' but got '6'")).toBe(print("total: expected '9' but got '7'"));
    // Without words it is what it always was; a drill's trial, which has none, is held against the rest.
    expect(print("expected '4' but got '6'")).toBe(wordless(print("total: expected '4' but got '6'")));
    const either = step(300, 310, { ...look.data, locator: { using: 'xpath', value: '//b | //i' } });
    const other = step(300, 310, { ...look.data, locator: { using: 'xpath', value: '//b | //u' } });
    const message = "total: expected '4' but got '6'";
    expect(wordless(fingerprint(read(message, lifeline, either), either))).not.toBe(
      wordless(fingerprint(read(message, lifeline, other), other)),
    );
  });

  it('the bodies of two tests are two places, code that they share is one', () => {
    const look = step(300, 310, { action: 'find', command: 'find element', locator: css('[data-ref]') });
    const at = (frame: string, test: string, told = 'timed out after 900 ms'): string =>
      fingerprint(readFailure(prepare([look], facts('failed', told, `Error: ${told}\n    at ${frame}`)))!, look, test);
    const body = 'test (specs/reserve.spec.mjs:31:19)';
    expect(at(body, 'reserve\nshows the reference')).not.toBe(at(body, 'reserve\nchooses a branch'));
    // Lines shift from commit to commit; rows of data are one test.
    expect(at('test (specs/reserve.spec.mjs:88:7)', 'reserve\nrow 3 (“Ada”)')).toBe(
      at(body, 'reserve\nrow 14 (“Deniz”)'),
    );
    const shared = 'signIn (specs/helpers.mjs:4:1)';
    expect(at(shared, 'reserve\nshows the reference')).toBe(at(shared, 'loans\nlists them'));
    // A trial knows nothing of it; and what it was before stays known.
    for (const told of ['timed out after 900 ms', 'timed out after 900 ms waiting for the reference']) {
      const print = at(body, 'reserve\nshows the reference', told);
      expect(wordless(print)).toBe(wordless(at(shared, 'x', told)));
      expect(bodiless(print)).toBe(at(shared, 'x', told));
      expect(bodiless(bodiless(print))).toBe(bodiless(print));
    }
  });

  it('says what its tries saw, by the words of the test', () => {
    const message = 'timed out after 1500 ms waiting for three sailings';
    const tries = Array.from({ length: 12 }, (_, i) =>
      step(100 + i * 100, 105 + i * 100, {
        action: 'find',
        command: 'find elements',
        locator: css('.sailing'),
        result: 0,
      }),
    );
    const evidence = prepare(tries, facts('failed', message));
    expect(readFailure(evidence)!.sentence).toBe(
      'Waited 1.5 s for three sailings: “.sailing” matched nothing in 12 tries',
    );
  });

  it('another target is another family', () => {
    const other = step(400, 420, { action: 'press', command: 'element click', locator: css('#pay'), error: stale });
    expect(fingerprint(read(stale.message, press(stale)), press(stale))).not.toBe(
      fingerprint(read(stale.message, other), other),
    );
  });
});

it('calls what was read by its locator where its name is the wrong text itself', () => {
  const shown = [element(0, 'appeared', 'css=h1', { node: 1, name: 'Harbour hotel', text: 'Harbour hotel' })];
  const message = 'heading: expected "Winter crossing" but got "Harbour hotel"';
  expect(read(message, ...shown, reads(50, 'Harbour hotel', 'h1')).sentence).toBe(
    '“h1” read “Harbour hotel” where “Winter crossing” was expected',
  );
});

it('shortens markup to a name', () => {
  expect(markupName('<div id="notice" class="notice slides shown" role="status">')).toBe('div#notice.notice.slides');
  expect(markupName('<p>')).toBe('p');
});
