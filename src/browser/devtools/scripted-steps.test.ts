import { describe, expect, it } from 'vitest';
import { parseJson } from '../recording/command-body.ts';
import { ScriptedSteps, type Scripted } from './scripted-steps.ts';

/** What scripts in a page dispatch, as commands. */

const all = (records: Partial<Scripted>[], context = 'f1'): string[] => {
  const out: string[] = [];
  const steps = new ScriptedSteps(({ target, path, body, at, until }) => {
    const { value, url, text } = parseJson(body) ?? {};
    out.push(`${target} ${at}-${until} ${path} ${JSON.stringify(value ?? url ?? text ?? null)}`);
  });
  for (const [i, one] of records.entries())
    steps.take(
      { k: 'scripted', t: i, e: 'click', d: 'b', s: '#b', u: 'http://lodos.example/', n: 1, o: false, ...one },
      context,
    );
  steps.over();
  return out;
};

describe('scripted events', () => {
  it('open the document they are the first of, and press what they were dispatched at', () => {
    expect(all([{}, { s: '#c' }])).toEqual([
      'f1 0-0 /url "http://lodos.example/"',
      'f1 0-0 /element "#b"',
      'f1 0-0 /element/scripted-1/click null',
      'f1 1-1 /element "#c"',
      'f1 1-1 /element/scripted-2/click null',
    ]);
  });

  it('on one field are one typing, told when something else is done', () => {
    const typed = (v: string, e: 'input' | 'change' = 'input') => ({ e, v, s: '#who' });
    expect(all([typed('A'), typed('Ada'), typed('Ada', 'change'), {}]).slice(1)).toEqual([
      'f1 0-0 /element "#who"',
      'f1 0-0 /element/scripted-1/clear null',
      'f1 0-0 /element "#who"',
      'f1 0-2 /element/scripted-2/value "Ada"',
      'f1 3-3 /element "#b"',
      'f1 3-3 /element/scripted-3/click null',
    ]);
  });

  it('in a document that the page around opened begin anew; in one that the application went to they go on', () => {
    const opened = (n: number, o: boolean) => all([{}, { n, o }]).filter((one) => one.includes('/url')).length;
    expect([opened(2, true), opened(2, false), opened(1, true)]).toEqual([2, 1, 1]);
  });

  it('are none where a script of the client dispatched them: its own step tells', () => {
    const pressed = (script: string, until = 20): number => {
      let count = 0;
      const steps = new ScriptedSteps(({ path }) => void (count += Number(path.endsWith('/click'))));
      const body = Buffer.from(JSON.stringify({ script, args: [] }));
      steps.beside({ target: 'f1', method: 'POST', path: '/execute/sync', body, answer: undefined, at: 0, until });
      const record = {
        k: 'scripted',
        e: 'click',
        d: 'b',
        s: '#b',
        u: 'http://lodos.example/',
        n: 1,
        o: false,
      } as const;
      steps.take({ ...record, t: 5 }, 'f1');
      steps.take({ ...record, t: 400 }, 'f1');
      return count;
    };
    expect(pressed('return arguments[0].click()')).toBe(1);
    expect(pressed('return window.done')).toBe(2);
    // A runner that was begun by a script goes on in it.
    expect(pressed('await run(); el.click()', 9000)).toBe(2);
  });

  it('of keys are those that have a name', () => {
    const keys = (v: string) => all([{ e: 'keydown', v }]).at(-1);
    expect(keys('Enter')).toBe(`f1 0-0 /element/scripted-1/value "\ue007"`);
    expect(keys('ArrowDown')).toBe(`f1 0-0 /element/scripted-1/value "\ue015"`);
    expect(keys('Dead')).toBeUndefined();
  });
});
