import { describe, expect, it } from 'vitest';
import { actionWords } from './action-words.ts';
import { holdsKeys, keysWritten, keyWords } from './keys.ts';

const down = '\uE015';
const enter = '\uE007';
const control = '\uE009';
const shift = '\uE008';

describe('keys without a character', () => {
  it.each([
    [down.repeat(5) + enter, 'Arrow down ×5, Enter'],
    [`Ada${enter}`, '“Ada”, Enter'],
    [`${control}a${control}\uE017`, 'Control+a, Delete'],
    [`${control}${shift}\uE014`, 'Control+Shift+Arrow right'],
    [`${control}a\uE000b`, 'Control+a, “b”'],
    [control, 'Control'],
    ['\uE020', 'Number pad 6'],
    ['\uE035', 'F5'],
    ['Bozca', '“Bozca”'],
  ])('%j are %s', (text, words) => expect(keyWords(text)).toBe(words));

  it('are told in values, too; a text without any stays as it is', () => {
    expect(keysWritten(`Ada${down}${down}`)).toBe('Ada [Arrow down ×2]');
    expect(keysWritten('a, b')).toBe('a, b');
    expect(holdsKeys('Ada')).toBe(false);
  });

  it('never leave a private-use character, whatever is sent', () => {
    for (let code = 0xe000; code <= 0xe05d; code++) {
      const char = String.fromCharCode(code);
      if (keyWords(char).includes(char)) expect(code, code.toString(16)).toBeGreaterThan(0xe019);
    }
  });
});

const key = 'element-6066-11e4-a52e-4f735466cecf';
const named = (id: string): string | undefined => (id === 'e1' ? '“#seat”' : undefined);
const pointer = (...actions: object[]): object => ({ type: 'pointer', actions });
const move = (origin: unknown, x = 0, y = 0): object => ({ type: 'pointerMove', origin, x, y });
const press = { type: 'pointerDown', button: 0 };
const release = { type: 'pointerUp', button: 0 };

describe('what Perform Actions does', () => {
  it.each([
    ['a press', [pointer(move({ [key]: 'e1' }), press, release)], 'Press on “#seat”'],
    ['two of them', [pointer(move({ [key]: 'e1' }), press, release, press, release)], 'Press on “#seat” ×2'],
    [
      'the right button',
      [pointer(move('viewport', 20, 30), { type: 'pointerDown', button: 2 }, release)],
      'Press on 20, 30 with the right button',
    ],
    ['a hover', [pointer(move({ [key]: 'e9' }))], 'Hover over an element'],
    [
      'a drag',
      [pointer(move({ [key]: 'e1' }), press, move('pointer', 40, 0), release)],
      'Drag “#seat” to 40, 0 further',
    ],
    [
      'a wheel',
      [{ type: 'wheel', actions: [{ type: 'scroll', deltaX: 0, deltaY: 300, origin: 'viewport', x: 1, y: 2 }] }],
      'Scroll by 0, 300 on 1, 2',
    ],
    [
      'keys',
      [
        {
          type: 'key',
          actions: [
            { type: 'keyDown', value: control },
            { type: 'keyDown', value: 'c' },
            { type: 'keyUp', value: 'c' },
            { type: 'keyUp', value: control },
          ],
        },
      ],
      'Press Control+c',
    ],
    ['nothing', [{ type: 'none', actions: [{ type: 'pause', duration: 5 }] }], ''],
    ['no sense', [null, 7, { type: 'key', actions: [null, { value: 3 }] }], ''],
  ])('%s', (_what, actions, words) => expect(actionWords({ actions }, named)).toBe(words));
});
