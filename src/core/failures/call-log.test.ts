import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { callLogIn } from './call-log.ts';
import { readMessage } from './message.ts';

/** Logs of waiting under failures, in the forms that clients write them. */

const covered = `locator.press: Timeout 2500ms exceeded.
Call log:
  - waiting for locator('#pay')
    - locator resolved to <button id="pay">Pay</button>
  - attempting press action
    2 × waiting for element to be visible, enabled and stable
      - element is visible, enabled and stable
      - <div class="notice">Storm</div> intercepts pointer events
    - retrying press action
`;

describe('a log of waiting', () => {
  it('is read line by line, with how deep and how often', () => {
    const { lines, reason } = callLogIn(covered)!;
    expect(lines.map(({ depth, times }) => [depth, times])).toEqual([
      [2, 1],
      [4, 1],
      [2, 1],
      [4, 2],
      [6, 1],
      [6, 1],
      [4, 1],
    ]);
    expect(lines[3]!.text).toBe('waiting for element to be visible, enabled and stable');
    expect(reason).toEqual({
      kind: 'press-intercepted',
      text: '<div class="notice">Storm</div> intercepts pointer events',
    });
  });

  it.each([
    [
      'Gave up pressing after 3 s\nTries:\n  1. found <button>Pay</button>\n  2. the element is disabled',
      'not-interactable',
    ],
    [
      'Timed out after 3000 ms\n * looked for #pay\n * found it\n * it was removed from the page, no longer attached',
      'stale-element',
    ],
    ['Timed out after 3000 ms\n • found <a>Fares</a>\n • it is covered by <div class="veil">', 'press-intercepted'],
    [
      'Timeout 400ms exceeded.\nLog:\n - waiting for element to be visible, enabled\n - element is not visible\n - waiting 20ms',
      'not-interactable',
    ],
    // It was pressed: what it waited for afterwards is no matter of the element.
    [
      'Timeout 400ms exceeded.\n - element is not visible\n - press action done\n - waiting for the page to load',
      undefined,
    ],
    ['Timeout 400ms exceeded.\n - waiting for #pay\n - waiting for #pay', undefined],
  ])('says why it was given up: %s', (text, kind) => {
    expect(callLogIn(text)?.reason?.kind).toBe(kind);
  });

  it('is not seen where there is none', () => {
    expect(callLogIn('Expected 3 but got 4')).toBeUndefined();
    expect(callLogIn('AssertionError: lists differ\n- one\n')).toBeUndefined();
    fc.assert(fc.property(fc.string(), (text) => void callLogIn(text)));
  });

  it('makes a time-out the failure it was', () => {
    expect(readMessage(covered)).toMatchObject({
      kind: 'press-intercepted',
      limitMs: 2500,
      obstructing: '<div class="notice">',
      locator: { using: 'css selector', value: '#pay' },
    });
    // A report has the first line alone, and the rest in its body; colours are none of it.
    const [first] = covered.split('\n');
    const body = covered.replace('- waiting', '\u001b[2m- waiting').replace('Pay</button>', 'Pay</button>\u001b[22m');
    expect(readMessage(first!, body)).toMatchObject({ kind: 'press-intercepted', locator: { value: '#pay' } });
    expect(readMessage('Timeout 400ms exceeded.\n - waiting for #pay\n - waiting for #pay').kind).toBe('timeout');
  });
});
