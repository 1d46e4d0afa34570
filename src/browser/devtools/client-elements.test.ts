import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ClientElements } from './client-elements.ts';
import { ClientSteps } from './client-steps.ts';
import { expressionBody, functionBody, lookOf } from '../recording/scripts-of-clients.ts';

type Json = Record<string, unknown>;
interface Said {
  method: string;
  path: string;
  body: Json;
  at: number;
}

/** What a client says to one page and is answered, as the steps that are told. */
function told(...messages: [Json, Json?][]): Said[] {
  const steps: Said[] = [];
  const client = new ClientSteps(
    {
      step: ({ method, path, body, at }) => steps.push({ method, path, body: JSON.parse(body.toString()) as Json, at }),
      opens: () => undefined,
      busy: () => undefined,
      begins: () => undefined,
      disposes: () => undefined,
      byItself: () => undefined,
    },
    'P',
  );
  messages.forEach(([asked, result], i) => {
    client.client(Buffer.from(JSON.stringify({ id: i + 1, ...asked })), i * 10);
    client.browser(Buffer.from(JSON.stringify({ id: i + 1, result: result ?? {} })), i * 10 + 5);
  });
  client.end(messages.length * 10);
  return steps;
}
const key = 'element-6066-11e4-a52e-4f735466cecf';
const found = (css: string, objectId: string): [Json, Json] => [
  { method: 'Runtime.evaluate', params: { expression: `document.querySelector('${css}')` } },
  { result: { type: 'object', subtype: 'node', objectId, description: 'button' } },
];
const call = (objectId: string, source: string, value: unknown): [Json, Json] => [
  { method: 'Runtime.callFunctionOn', params: { objectId, functionDeclaration: source, returnByValue: true } },
  { result: { type: 'object', value } },
];
const mouse = (x: number, y: number): [Json][] =>
  ['mouseMoved', 'mousePressed', 'mouseReleased'].map((type) => [
    { method: 'Input.dispatchMouseEvent', params: { type, x, y, button: 'left', clickCount: 1 } },
  ]);
const types = (keys: string): [Json][] =>
  [...keys].map((one) => [{ method: 'Input.dispatchKeyEvent', params: { type: 'keyDown', key: one, text: one } }]);
const box = 'function () { return this.getBoundingClientRect().toJSON(); }';

describe('an element that a client holds', () => {
  it('is what it presses where it was measured, and the look belongs to the press', () => {
    const steps = told(
      found('#hold', '7.1.2'),
      call('7.1.2', box, { x: 100, y: 40, width: 80, height: 20 }),
      ...mouse(140, 50),
    );
    expect(steps.map(({ method, path }) => `${method} ${path}`)).toEqual([
      'POST /element',
      'POST /element/7.1.2/click',
    ]);
    expect(steps[1]!.at).toBe(10);
  });

  it('is not what is pressed elsewhere, or much later', () => {
    const away = told(found('#hold', '1'), call('1', box, { x: 0, y: 0, width: 20, height: 20 }), ...mouse(140, 50));
    expect(away.map(({ path }) => path)).toEqual(['/element', '/element/1/rect', '/actions']);
    const elements = new ClientElements();
    elements.hand('1');
    elements.looks('1', { x: 5, y: 5 }, 0);
    const press = (at: number) =>
      elements.acted({
        actions: [
          {
            type: 'pointer',
            actions: [
              { type: 'pointerMove', x: 5, y: 5 },
              { type: 'pointerDown', button: 0 },
              { type: 'pointerUp', button: 0 },
            ],
          },
        ],
        at,
        until: at,
      });
    expect(press(2000)?.path).toBe('/element/1/click');
    expect(press(60_000)).toBeUndefined();
  });

  it('is known by every name that the browser gives it, and by its place in a list', () => {
    const quads = told(
      [{ method: 'DOM.querySelector', params: { nodeId: 1, selector: '#hold' } }, { nodeId: 14 }],
      [{ method: 'DOM.describeNode', params: { nodeId: 14 } }, { node: { backendNodeId: 99 } }],
      [{ method: 'DOM.getContentQuads', params: { backendNodeId: 99 } }, { quads: [[0, 0, 30, 0, 30, 10, 0, 10]] }],
      ...mouse(15, 5),
    );
    expect(quads.map(({ path }) => path)).toEqual(['/element', '/element/n14/click']);
    const listed = told(
      [
        { method: 'Runtime.evaluate', params: { expression: `document.querySelectorAll('li')` } },
        { result: { type: 'object', objectId: '5', description: 'NodeList(2)' } },
      ],
      [
        { method: 'Runtime.getProperties', params: { objectId: '5' } },
        {
          result: [
            { name: '1', value: { objectId: '6', subtype: 'node' } },
            { name: 'length', value: { value: 2 } },
          ],
        },
      ],
      call('6', 'function () { return this.innerText; }', 'second'),
    );
    expect(listed.map(({ path }) => path)).toEqual(['/elements', '/element/5.1/text']);
  });

  it('is typed into after it was given the focus or pressed; keys that are more than letters stay keys', () => {
    const focus = call('3', 'function () { this.focus(); }', null);
    const typed = told(found('#name', '3'), focus, ...types('Ece'));
    expect(typed.map(({ path, body }) => [path, body.text])).toEqual([
      ['/element', undefined],
      ['/element/3/value', 'Ece'],
    ]);
    const chord = told(found('#name', '3'), focus, [
      { method: 'Input.dispatchKeyEvent', params: { type: 'rawKeyDown', key: 'Control' } },
    ]);
    expect(chord.map(({ path }) => path)).toEqual(['/element', '/execute/sync', '/actions']);
  });

  it('that a script hands out is located by the script, and a script that finds none says so', () => {
    const expression = `[...document.querySelectorAll('a')].find((one) => one.innerText === 'Go') ?? null`;
    const asked = { method: 'Runtime.evaluate', params: { expression } };
    const [none, one] = told(
      [asked, { result: { type: 'object', subtype: 'null', value: null } }],
      [asked, { result: { type: 'object', subtype: 'node', objectId: '9' } }],
    );
    for (const step of [none, one])
      expect(step).toMatchObject({ path: '/element', body: { using: 'by script', value: `return ${expression}` } });
  });

  it('that is looked up and read in one is found and read; where it was measured so, a press is on it', () => {
    const read = (value: unknown): [Json, Json] => [
      { method: 'Runtime.evaluate', params: { expression: `document.querySelector('.fare').textContent` } },
      value === undefined
        ? { exceptionDetails: { text: 'Uncaught' }, result: {} }
        : { result: { type: 'string', value } },
    ];
    const [none, found, text] = told(read(undefined), read('412'));
    expect([none, found, text].map((one) => [one!.path, one!.body.value])).toEqual([
      ['/element', '.fare'],
      ['/element', '.fare'],
      [expect.stringMatching(/^\/element\/q\w+\/text$/), undefined],
    ]);
    const expression = `(() => { const r = document.querySelector("#pay").getBoundingClientRect(); return { x: r.x, y: r.y }; })()`;
    const pressed = told(
      [{ method: 'Runtime.evaluate', params: { expression } }, { result: { type: 'object', value: { x: 30, y: 9 } } }],
      ...mouse(30, 9),
    );
    expect(pressed.map(({ path, body }) => [path.split('/').at(-1), body.value])).toEqual([
      ['element', '#pay'],
      ['click', undefined],
    ]);
  });

  it('that is gone with its page is a stale one', () => {
    const steps: Json[] = [];
    const client = new ClientSteps(
      {
        step: ({ answer }) => steps.push((JSON.parse(answer!.body.toString()) as { value: Json }).value),
        opens: () => undefined,
        busy: () => undefined,
        begins: () => undefined,
        disposes: () => undefined,
        byItself: () => undefined,
      },
      'P',
    );
    client.client(
      Buffer.from('{"id":1,"method":"Runtime.callFunctionOn","params":{"objectId":"1","functionDeclaration":"f"}}'),
      0,
    );
    client.browser(Buffer.from('{"id":1,"error":{"message":"Cannot find context with specified id"}}'), 1);
    expect(steps).toEqual([expect.objectContaining({ error: 'stale element reference' })]);
  });

  it('is given to scripts as an element, with what a function is called on first', () => {
    const [, step] = told(found('#a', '1'), call('1', 'function (n) { this.value = n; }', null));
    expect(step!.body).toEqual({
      script: 'return (function (n) { this.value = n; }).apply(arguments[0], [...arguments].slice(1))',
      args: [{ [key]: '1' }],
    });
  });

  it('is made of any answer without a throw', () => {
    fc.assert(
      fc.property(fc.json(), fc.json(), (params, answer) => {
        const elements = new ClientElements();
        elements.hand('1');
        const asked = { ...(JSON.parse(params) as object), objectId: '1' };
        for (const method of ['Runtime.getProperties', 'DOM.describeNode', 'DOM.getBoxModel'])
          elements.told(method, asked, { result: JSON.parse(answer), model: JSON.parse(answer) }, 0);
        elements.looks('1', JSON.parse(answer), 0);
        elements.acted({ actions: JSON.parse(`[${answer}]`) as Json[], at: 1, until: 1 });
      }),
    );
  });
});

describe('what a client evaluates', () => {
  it.each([
    ['function () { return this.innerText; }', 'text'],
    ['(one) => one.textContent.trim()', 'text'],
    ['function(){return this.value}', 'property/value'],
    ['e => e.checkVisibility({ opacityProperty: true })', 'displayed'],
    ['function () { this.scrollIntoView(); return this.getBoundingClientRect(); }', 'rect'],
    ['(a) => b.value', undefined],
    ['function () { this.focus(); }', undefined],
  ])('%s reads %s', (source, look) => expect(lookOf(source)).toBe(look));

  it.each([
    ['document.title;', 'return document.title'],
    ['// a remark\ndocument.title', 'return (// a remark\ndocument.title\n)'],
    ['{ a: 1 }', 'return { a: 1 }'],
    ['let a = 1; a', 'let a = 1; a'],
    ['not )( code', 'not )( code'],
  ])('%s is given back as the body of a script', (source, body) => expect(expressionBody(source)).toBe(body));

  it('is called with what it is given', () => {
    const run = (body: string, ...given: unknown[]): unknown =>
      (new Function(body) as (...g: unknown[]) => unknown)(...given);
    expect(run(functionBody('(a, b) => a + b', false), 2, 3)).toBe(5);
    expect(run(functionBody('function (n) { return this.length + n; }', true), 'four', 1)).toBe(5);
    expect(run(expressionBody('6 * 7'))).toBe(42);
  });
});
