import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { elementKey } from './commands.ts';
import { BidiSteps } from './bidi-steps.ts';
import { plainValue, saidByBidi } from './said-by-bidi.ts';

const methods = [
  'browsingContext.navigate',
  'browsingContext.traverseHistory',
  'browsingContext.captureScreenshot',
  'browsingContext.handleUserPrompt',
  'browsingContext.create',
  'browsingContext.setViewport',
  'browsingContext.locateNodes',
  'input.performActions',
  'input.setFiles',
  'script.evaluate',
  'script.callFunction',
  'storage.setCookie',
];

describe('what a BiDi client says', () => {
  it('is a command, and its answer that command’s', () => {
    const find = saidByBidi('browsingContext.locateNodes', {
      context: 'c1',
      locator: { type: 'css', value: '.seat' },
      startNodes: [{ sharedId: 'deck' }],
    })!;
    expect(find).toMatchObject({
      method: 'POST',
      path: '/element/deck/elements',
      body: { using: 'css selector', value: '.seat' },
      context: 'c1',
    });
    expect(find.answer({ nodes: [{ type: 'node', sharedId: 'a' }, { type: 'node' }] })).toEqual([
      { [elementKey]: 'a' },
    ]);
    const press = saidByBidi('input.performActions', {
      context: 'c1',
      actions: [
        {
          type: 'pointer',
          actions: [{ type: 'pointerMove', origin: { type: 'element', element: { sharedId: 'a' } } }],
        },
      ],
    })!;
    expect(press.body).toEqual({
      actions: [{ type: 'pointer', actions: [{ type: 'pointerMove', origin: { [elementKey]: 'a' } }] }],
    });
    expect(saidByBidi('network.addIntercept', {})).toBeUndefined();
    expect(
      saidByBidi('script.evaluate', { expression: 'x'.repeat(30_000), target: { context: 'c1' } }),
    ).toBeUndefined();
  });

  it('texts that people see are looked up by an XPath that finds them, whatever quotes they have', () => {
    const using = (value: string): unknown =>
      saidByBidi('browsingContext.locateNodes', { context: 'c', locator: { type: 'innerText', value } })!.body.value;
    expect(using('Hold seat')).toBe('//*[normalize-space()="Hold seat"]');
    expect(using('the "Poyraz"')).toBe(`//*[normalize-space()='the "Poyraz"']`);
    expect(using(`Ada's "Bay"`)).toBe(`//*[normalize-space()=concat("Ada's ", '"', "Bay", '"', "")]`);
  });

  it('values of the page are plain', () => {
    const list = {
      type: 'array',
      value: [{ type: 'number', value: 3 }, { type: 'null' }, { type: 'node', sharedId: 'n' }],
    };
    const map = {
      type: 'map',
      value: [
        ['a', list],
        [
          { type: 'number', value: 2 },
          { type: 'string', value: 'b' },
        ],
      ],
    };
    expect(plainValue(map)).toEqual({ a: [3, null, { [elementKey]: 'n' }], 2: 'b' });
  });

  it('whatever it is, it throws nothing and waits for nothing', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...methods),
        fc.object({
          key: fc.constantFrom('context', 'locator', 'value', 'type', 'actions', 'target', 'element', 'viewport'),
        }),
        fc.jsonValue(),
        (method, params, answer) => {
          const said = saidByBidi(method, params);
          if (said) expect(() => JSON.stringify(said.answer((answer ?? {}) as Record<string, unknown>))).not.toThrow();
          expect(() => JSON.stringify(plainValue(answer))).not.toThrow();
        },
      ),
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.boolean(), fc.string())), (messages) => {
        const taken: string[] = [];
        const steps = new BidiSteps({
          begin: () => undefined,
          later: (work) => work(),
          took: (_method, path) => void taken.push(path),
          commands: { meanwhile: () => undefined },
        });
        for (const [mine, text] of messages) steps[mine ? 'client' : 'driver'](text, 0);
        steps.client('{"id":1,"method":"browsingContext.reload","params":{"context":"c"}}', 1);
        steps.driver('{"type":"success","id":1,"result":{}}', 2);
        steps.client('{"id":2,"method":"browsingContext.reload","params":{"context":"c"}}', 3);
        steps.end(4);
        expect(taken).toEqual(['/refresh', '/refresh']);
      }),
    );
  });
});
