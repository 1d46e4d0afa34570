import { describe, expect, it } from 'vitest';
import type { CommandName } from './command-names.ts';
import type { StepData, StepEvent } from './event.ts';
import { prepare } from './prepare.ts';
import { css, facts, reads, step } from './samples.ts';

let at = 0;
const then = (gap: number, took: number, data: Partial<StepData> & Pick<StepData, 'action'>): StepEvent => {
  at += gap;
  const made = step(at, at + took, data);
  at += took;
  return made;
};
const other = (command: CommandName, action: StepData['action'] = 'other', more: Partial<StepData> = {}): StepEvent =>
  then(4, 6, { action, command, label: command, ...more });
const noSuch = { code: 'no such element', message: 'no such element: Unable to locate {"css selector","#pass"}' };
/** A wait of 1.6 s for an element that never came. */
const wait = (): StepEvent[] =>
  Array.from({ length: 16 }, () =>
    then(92, 8, { action: 'find', command: 'find element', locator: css('#pass'), error: noSuch }),
  );
const open = (): StepEvent => then(0, 100, { action: 'open', command: 'navigate to', input: 'http://ferry.test/' });
const press = (): StepEvent => then(20, 30, { action: 'press', command: 'element click', locator: css('#hold') });
const shot = (): StepEvent => other('take screenshot', 'picture');
const source = (): StepEvent => other('get page source', 'read', { subject: 'source', result: '<html>' });
const address = (): StepEvent =>
  other('get current url', 'read', { subject: 'address', result: 'http://ferry.test/pass' });
const title = (): StepEvent => other('get title', 'read', { subject: 'title', result: 'Lodos Ferries' });
const log = (): StepEvent => other('another command', 'other', { subject: 'POST /se/log', label: 'POST /se/log' });
const script = (input: string): StepEvent => other('execute script', 'script', { input, result: 'x' });

/** What real runners send after a failure, and before they report it. */
const habits: [name: string, commands: () => StepEvent[]][] = [
  ['nothing', () => []],
  ['a picture', () => [shot()]],
  ['a picture and the source', () => [shot(), source()]],
  ['the address, the title, then a picture', () => [address(), title(), shot()]],
  ['a picture, then the address and the title', () => [shot(), address(), title()]],
  [
    'logs by a vendor’s command',
    () => [other('another command', 'other', { subject: 'GET /se/log/types' }), log(), log()],
  ],
  ['cookies, kept and deleted', () => [other('get cookies', 'cookie'), other('delete cookies', 'cookie')]],
  ['the implicit limit put back', () => [other('set timeouts', 'settings', { implicit: 0 })]],
  [
    'window handles, each looked at and pictured',
    () => [
      other('get window handles'),
      other('switch to window', 'window', { handle: 'w1' }),
      shot(),
      other('switch to window', 'window', { handle: 'w2' }),
      shot(),
    ],
  ],
  ['back to the whole page, then a picture', () => [other('switch to frame', 'frame'), shot()]],
  ['the document by script', () => [script('return document.documentElement.outerHTML;')]],
  [
    'storage and the browser’s name by script',
    () => [script('return navigator.userAgent'), script('window.localStorage.clear()')],
  ],
  ['an empty page opened', () => [then(3, 20, { action: 'open', command: 'navigate to', input: 'about:blank' })]],
  [
    'a picture that fails, since the window is gone',
    () => [
      other('take screenshot', 'picture', { error: { code: 'no such window', message: 'no such window: gone' } }),
      other('get page source', 'read', { error: { code: 'no such window', message: 'no such window: gone' } }),
    ],
  ],
  ['the window closed', () => [shot(), other('close window', 'window')]],
  [
    'the pointer let go, a picture of the element',
    () => [other('release actions'), other('take element screenshot', 'picture')],
  ],
];

describe.each(habits)('after a failure: %s', (_name, after) => {
  it('a wait that ran out is the failing step, all of it', () => {
    at = 0;
    const begun = [open(), press()];
    const tries = wait();
    const steps = [...begun, ...tries];
    const evidence = prepare([...steps, ...after()], {
      ...facts('failed'),
      message: 'timed out after 1600 ms waiting for the boarding pass',
    });
    expect(evidence.failing?.id).toBe(tries.at(-1)!.id);
    const whole = evidence.waits.find(({ id }) => id === evidence.insideWait.get(evidence.failing!.id))!;
    expect(whole.until! - whole.at).toBeGreaterThan(1500);
  });

  it('a check that did not hold is where its value was read', () => {
    at = 0;
    const read = reads(150, '412 TL', '.fare');
    const steps = [open(), press()];
    at = 200;
    const evidence = prepare([...steps, read, ...after()], {
      ...facts('failed'),
      message: 'expected "398 TL" but got "412 TL"',
    });
    expect(evidence.failing?.id).toBe(read.id);
  });

  it('a press that was refused is that press', () => {
    at = 0;
    const code = 'element click intercepted';
    const steps = [
      open(),
      then(9, 20, {
        action: 'press',
        command: 'element click',
        locator: css('#pay'),
        error: { code, message: `${code}: other element would receive the click` },
      }),
    ];
    const evidence = prepare([...steps, ...after()], {
      ...facts('failed'),
      message: `${code}: other element would receive the click`,
    });
    expect(evidence.failing?.id).toBe(steps[1]!.id);
  });
});

it('what a test itself reads last is its own', () => {
  at = 0;
  const steps = [open(), press(), address()];
  const evidence = prepare(steps, {
    ...facts('failed'),
    message: 'expected "http://ferry.test/checkout" but got "http://ferry.test/pass"',
  });
  expect(evidence.failing?.id).toBe(steps[2]!.id);
});

it('a picture in the middle of a test is no aftermath', () => {
  at = 0;
  const code = 'no such element';
  const steps = [
    open(),
    shot(),
    then(9, 20, { action: 'find', command: 'find element', locator: css('#x'), error: { code, message: code } }),
  ];
  expect(prepare(steps, { ...facts('failed'), message: code }).failing?.id).toBe(steps[2]!.id);
});
