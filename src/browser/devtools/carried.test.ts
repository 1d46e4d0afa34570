import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CarriedCalls } from './carried-calls.ts';
import { carriedBy, isFunction, readBy, soughtAs, unpacked, writesElement } from './carried.ts';
import { ClientElements } from './client-elements.ts';

/** Calls of clients that wrap what they do, in packings and under names of several kinds. */

type Json = Record<string, unknown>;

/** Packs as some clients do: objects as lists of pairs, lists numbered. */
let count = 0;
const packed = (value: unknown, [k, v, list, object]: readonly string[]): unknown => {
  if (Array.isArray(value)) return { [list!]: value.map((one) => packed(one, [k!, v!, list!, object!])), id: ++count };
  if (value === null || typeof value !== 'object') return value;
  const pairs = Object.entries(value).map(([key, one]) => ({ [k!]: key, [v!]: packed(one, [k!, v!, list!, object!]) }));
  return { [object!]: pairs, id: ++count };
};
const namings = [
  ['k', 'v', 'a', 'o'],
  ['n', 'val', 'list', 'map'],
] as const;

describe('what a call carries', () => {
  it.each([
    ['(tool, ...args) => tool.run(...args)', namings[0]],
    ['function (helper) { return helper.call.apply(helper, arguments) }', namings[1]],
    ['(f, ...given) => eval(f)(...given)', undefined],
  ])('is read from its arguments: %s', (functionDeclaration, naming) => {
    const data = { info: { parts: [{ name: 'css', body: '#pay', source: '#pay' }] }, strict: true };
    const carried = carriedBy({
      functionDeclaration,
      objectId: '-1.4.1',
      arguments: [
        { objectId: '-1.4.1' },
        { value: '(tool, given) => tool.all(given.info.parts)[0]' },
        { value: naming ? packed(data, naming) : JSON.stringify(data) },
        { objectId: '-1.4.9' },
      ],
    })!;
    expect(carried.source).toBe('(tool, given) => tool.all(given.info.parts)[0]');
    expect(carried.sought).toEqual({ using: 'css selector', value: '#pay' });
    expect(carried.objects).toEqual(['-1.4.1', '-1.4.9']);
  });

  it('is nothing where a function does what it says', () => {
    for (const functionDeclaration of [
      'function () { return this.innerText }',
      '(one, more) => one.append(more)',
      `(tool, ...args) => { ${'let x = 1; '.repeat(100)} return tool.run(...args) }`,
    ])
      expect(carriedBy({ functionDeclaration, arguments: [{ value: '(a) => a' }] })).toBeUndefined();
  });

  it('names its selector only where its kind is said', () => {
    const sought = (data: unknown) =>
      carriedBy({
        functionDeclaration: '(t, ...a) => t.run(...a)',
        arguments: [{ value: '(a) => a' }, { value: data }],
      })!.sought;
    expect(sought(['xpath=//main/p'])).toEqual({ using: 'xpath', value: '//main/p' });
    expect(sought({ at: '//main//b' })).toEqual({ using: 'xpath', value: '//main//b' });
    expect(sought({ kind: 'XPath', value: './/li' })).toEqual({ using: 'xpath', value: './/li' });
    expect(
      sought([
        { name: 'css', source: 'main' },
        { name: 'css', source: '.row' },
      ]),
    ).toEqual({
      using: 'css selector',
      value: 'main .row',
    });
    expect(sought([{ name: 'role', source: 'button[name="Pay"i]' }])).toBeUndefined();
    expect(
      sought([
        { name: 'css', source: 'li' },
        { name: 'nth', source: '2' },
      ]),
    ).toBeUndefined();
  });

  it('is unpacked to what was packed', () => {
    const data = fc.letrec((tie) => ({
      any: fc.oneof(
        { maxDepth: 3 },
        fc.boolean(),
        fc.integer(),
        fc.constantFrom('a', 'ferry', '#pay'),
        tie('list'),
        tie('object'),
      ),
      list: fc.array(tie('any'), { minLength: 1, maxLength: 3 }),
      object: fc.dictionary(fc.constantFrom('fare', 'seat', 'parts', 'sailing', 'name'), tie('any'), {
        minKeys: 3,
        maxKeys: 4,
      }),
    })).any;
    fc.assert(
      fc.property(data, fc.constantFrom(...namings), (value, naming) => {
        expect(unpacked(packed(value, naming))).toEqual(value);
      }),
    );
    fc.assert(fc.property(fc.anything(), (value) => void unpacked(value)));
  });

  it('tells what was read by what the standards call it', () => {
    const of = (source: string, ...texts: string[]) => ({
      source,
      texts,
      objects: [],
      data: [],
      sought: undefined,
      byHandle: false,
    });
    expect(readBy(of('(t, e) => e.innerText'), 'Paid')).toBe('text');
    expect(readBy(of('(t, g) => t.eval(g.f)', '(e) => ({ result: e.value })'), 'Ece')).toBe('property/value');
    expect(
      readBy({ ...of('(e, g) => e.getAttribute(g.name)'), data: [{ name: 'css' }, { task: { name: 'href' } }] }, '/a'),
    ).toBe('attribute/href');
    expect(readBy(of('(t, e, s) => t.state(e, s)', 'visible'), true)).toBe('displayed');
    expect(readBy(of('(t, e) => t.fill(e)'), 'needs typing')).toBeUndefined();
    expect(readBy(of('(t, e) => { e.value = "x" }'), 'ok')).toBeUndefined();
  });

  it('an element that is written down is found again', () => {
    expect(soughtAs('button.main', 'resolved to <button id="pay" class="main">Pay</button>')).toEqual({
      using: 'css selector',
      value: 'button[id="pay"]',
    });
    expect(soughtAs('li.row', 'one of 3: <li class="row">Kuzu  Island</li>')).toEqual({
      using: 'xpath',
      value: '//li[normalize-space(.)="Kuzu Island"]',
    });
    expect(soughtAs('li.row.chosen')).toEqual({ using: 'css selector', value: 'li.row.chosen' });
    expect(soughtAs('a thing')).toBeUndefined();
    expect(writesElement('5 < 7 and 8 > 3')).toBe(false);
    expect([isFunction('async ({ a, b }) => a'), isFunction('x => x'), isFunction('document.title')]).toEqual([
      true,
      true,
      false,
    ]);
  });
});

describe('carried calls of one page', () => {
  const wrapper = '(util, ...args) => util.evaluate(...args)';
  const call = (source: string, more: unknown[], objects: string[], byValue = false, world = 4): Json => ({
    functionDeclaration: wrapper,
    objectId: `-1.${world}.2`,
    arguments: [
      { objectId: `-1.${world}.2` },
      { value: source },
      ...more.map((value) => ({ value })),
      ...objects.map((objectId) => ({ objectId })),
    ],
    returnByValue: byValue,
  });
  const played = () => {
    const calls = new CarriedCalls();
    calls.world(4, true);
    calls.world(3, false);
    const elements = new ClientElements();
    let at = 0;
    return {
      elements,
      does: (params: Json, result: Json) => {
        const carried = calls.reads('Runtime.callFunctionOn', params)!;
        const told = calls.answered(carried, params, { result }, elements, ++at);
        if (!told) return undefined;
        const { said, at: from } = told;
        return {
          at: from,
          path: said.path,
          body: said.body,
          answer: said.answer({}),
          then: said.then?.path,
          read: said.then?.answer({}),
        };
      },
    };
  };
  const finding = (value: string, byValue = false): Json =>
    call('(tool, given) => tool.first(given) ?? "none-here"', [{ using: 'css', source: value }], ['-1.4.1'], byValue);
  const element = { using: 'css selector', value: '#pay' };

  it('a find hands out its element at once, or through what it handed back', () => {
    const { does } = played();
    expect(
      does(finding('#pay'), { type: 'object', subtype: 'node', description: 'button#pay', objectId: '-1.4.5' }),
    ).toMatchObject({
      path: '/element',
      body: element,
      answer: { 'element-6066-11e4-a52e-4f735466cecf': '-1.4.5' },
    });
    expect(does(finding('#pay'), { type: 'object', objectId: '-1.4.6' })).toBeUndefined();
    expect(
      does(call('(r) => r.element', [], ['-1.4.6']), {
        type: 'object',
        subtype: 'node',
        description: 'button#pay',
        objectId: '-1.4.7',
      }),
    ).toMatchObject({
      at: 2,
      path: '/element',
      body: element,
    });
  });

  it('one that finds nothing says so, whatever word the client has for it', () => {
    const { does } = played();
    const none = { error: 'no such element', message: 'nothing matches #pay' };
    expect(does(finding('#pay'), { type: 'string', value: 'none-here' })).toMatchObject({
      body: element,
      answer: none,
    });
    expect(does(finding('#pay', true), { type: 'string', value: 'none-here' })).toMatchObject({
      body: element,
      answer: none,
    });
  });

  it('one that is only told of is found, and its element has that name later', () => {
    const { does, elements } = played();
    does(finding('#pay'), { type: 'object', objectId: '-1.4.6' });
    const log = { log: 'resolved to <button id="pay">Pay</button>', ok: true };
    const told = does(call('(r) => r.log', [], ['-1.4.6'], true), { type: 'object', value: log });
    expect(told).toMatchObject({ body: element });
    elements.hand('-1.4.6');
    expect(
      does(call('(r) => r.element', [], ['-1.4.6']), { type: 'object', subtype: 'node', objectId: '-1.4.8' }),
    ).toBeUndefined();
    expect(elements.of({ objectId: '-1.4.8' })).toBe('-1.4.6');
  });

  it('reads are reads; what only the client needs is no step', () => {
    const { does, elements } = played();
    elements.hand('-1.4.5');
    expect(
      does(call('(t, e) => e.innerText', [], ['-1.4.1', '-1.4.5'], true), { type: 'string', value: 'Paid' }),
    ).toMatchObject({
      path: '/element/-1.4.5/text',
      answer: 'Paid',
    });
    const inOne = call(
      '(t, g) => ({ log: t.preview(g), value: { result: t.first(g).innerText } })',
      [{ using: 'css', source: '#pay' }],
      ['-1.4.1'],
      true,
    );
    const value = { log: 'resolved to <p id="pay">Paid</p>', value: { result: 'Paid' } };
    expect(does(inOne, { type: 'object', value })).toMatchObject({
      path: '/element',
      body: element,
      read: 'Paid',
      then: expect.stringMatching(/\/text$/) as string,
    });
    for (const [source, result] of [
      ['(t, e) => t.ready(e, ["visible", "enabled"])', { type: 'undefined' }],
      ['(t, e) => "Handle@" + t.preview(e)', { type: 'string', value: 'Handle@<p id="t">Paid</p>' }],
      ['(t) => ({ width: innerWidth, height: innerHeight })', { type: 'object', value: { width: 1280, height: 720 } }],
    ] as const)
      expect(does(call(source, [], ['-1.4.1', '-1.4.5'], true), result)).toBeUndefined();
  });

  it('all of a kind that has none are none, and no failed find', () => {
    const { does } = played();
    const all = call(
      '(tool, given) => tool.run(given)',
      [{ parts: [{ using: 'css', source: '#pay' }], each: '({ elements }) => elements' }],
      ['-1.4.1'],
    );
    expect(does(all, { type: 'string', value: 'none-here' })).toMatchObject({ path: '/elements', answer: [] });
    const one = call(
      '(tool, given) => tool.run(given)',
      [{ parts: [{ using: 'css', source: '#pay' }], each: '({ elements }) => elements[0]' }],
      ['-1.4.1'],
    );
    expect(does(one, { type: 'string', value: 'none-here' })).toMatchObject({
      path: '/element',
      answer: { error: 'no such element' },
    });
  });

  it('a list is found with as many members as it has', () => {
    const { does } = played();
    const list = does(call('(t, g) => t.all(g)', [{ using: 'css', source: 'li' }], ['-1.4.1']), {
      type: 'object',
      subtype: 'array',
      description: 'Array(2)',
      objectId: '-1.4.9',
    });
    expect(list).toMatchObject({ path: '/elements', body: { value: 'li' } });
    expect((list!.answer as Json[]).map((one) => Object.values(one)[0])).toEqual(['-1.4.9.0', '-1.4.9.1']);
    expect(
      does(call('(t, g) => t.all(g).length', [{ using: 'css', source: 'li' }], ['-1.4.1'], true), {
        type: 'number',
        value: 3,
      })?.answer,
    ).toHaveLength(3);
  });

  it('in the page’s world it is a script of the test’s, with its own source, at once or when it comes to something', () => {
    const { does } = played();
    expect(does(call('() => document.title', [], [], true, 3), { type: 'string', value: 'Lodos' })).toMatchObject({
      path: '/execute/sync',
      body: { script: 'return (() => document.title).apply(null, arguments)' },
      answer: 'Lodos',
    });
    const poll = call(
      '(t, g) => ({ result: t.poll(g.test) })',
      [{ test: '() => window.paid', every: 'frame' }],
      ['-1.3.1'],
      false,
      3,
    );
    expect(does(poll, { type: 'object', objectId: '-1.3.7' })).toBeUndefined();
    expect(does(call('(h) => h.result', [], ['-1.3.7'], false, 3), { type: 'boolean', value: true })).toMatchObject({
      at: 2,
      body: { script: 'return (() => window.paid).apply(null, arguments)' },
      answer: true,
    });
  });

  it('what is refused is a look at its element, and what is read or written down takes no keys', () => {
    const { does, elements } = played();
    elements.hand('-1.4.5');
    const keys = (at: number) =>
      elements.acted({ actions: [{ type: 'key', actions: [{ type: 'keyDown', value: 'E' }] }], at, until: at });
    does(call('(t, e) => e.innerText', [], ['-1.4.1', '-1.4.5'], true), { type: 'string', value: 'Paid' });
    does(call('(t, e) => t.preview(e)', [], ['-1.4.1', '-1.4.5'], true), {
      type: 'string',
      value: '<p id="t">Paid</p>',
    });
    expect(keys(10)).toBeUndefined();
    const ready = call('(t, e) => t.ready(e)', [], ['-1.4.1', '-1.4.5'], true);
    expect(does(ready, { type: 'string', value: 'error:detached' })).toMatchObject({ path: '/element/-1.4.5/rect' });
    expect(does(ready, { type: 'string', value: 'done' })).toBeUndefined();
    expect(keys(20)).toMatchObject({ path: '/element/-1.4.5/value' });
  });

  it('a thing that is asked for what it holds gives the answer of the script it came from', () => {
    const { does } = played();
    const poll = call('(t, g) => t.run(g)', ['() => ({ x: 8, y: 29 })'], ['-1.3.1'], false, 3);
    expect(does(poll, { type: 'object', objectId: '-1.3.7' })).toBeUndefined();
    const asking = {
      functionDeclaration: '(tool, ...args) => tool.valueOf(...args)',
      objectId: '-1.3.2',
      arguments: [{ objectId: '-1.3.2' }, { value: true }, { objectId: '-1.3.7' }],
    };
    const value = {
      o: [
        { k: 'x', v: 8 },
        { k: 'y', v: 29 },
      ],
      id: 1,
    };
    expect(does(asking, { type: 'object', value })).toMatchObject({ at: 1, answer: { x: 8, y: 29 } });
    const another = { ...asking, arguments: [{ objectId: '-1.3.2' }, { objectId: '-1.3.9' }] };
    expect(does(another, { type: 'object', value })).toBeUndefined();
  });
});
