import { describe, expect, it } from 'vitest';
import { css, step } from './samples.ts';
import { inferWaits } from './waits.ts';

const find = (at: number, selector: string, ok = true) =>
  step(at, at + 5, {
    action: 'find',
    command: 'find element',
    locator: css(selector),
    ...(ok ? {} : { error: { code: 'no such element', message: '' } }),
  });
const text = (at: number, selector: string, result: string) =>
  step(at, at + 5, { action: 'read', command: 'get text', subject: 'text', locator: css(selector), result });

describe('polls', () => {
  it('a find repeated until it succeeds is one wait with its tries', () => {
    const { waits, polls, insideWait } = inferWaits([find(0, '#a', false), find(60, '#a', false), find(120, '#a')]);
    expect(waits).toHaveLength(1);
    expect(waits[0]!.data).toMatchObject({ action: 'wait', polls: 3, ok: true, label: 'Wait for “#a”' });
    expect(polls.map((poll) => poll.data.saw)).toEqual(['no such element', 'no such element', 'found']);
    expect(polls.map((poll) => poll.data.ok)).toEqual([false, false, true]);
    expect(insideWait.size).toBe(3);
  });

  it('find and read in turn are one wait, whose tries are the reads', () => {
    const { waits, polls } = inferWaits([
      find(0, '.fare'),
      text(6, '.fare', '…'),
      find(70, '.fare'),
      text(76, '.fare', '412'),
    ]);
    expect(waits).toHaveLength(1);
    expect(waits[0]!.data.label).toBe('Wait for text of “.fare”');
    expect(polls.map((poll) => poll.data.saw)).toEqual(['…', '412']);
  });

  it('what was found each time was looked up again, not waited for; until it is gone it is', () => {
    expect(inferWaits([find(0, '#a'), find(505, '#a')]).waits.filter(({ kind }) => kind === 'wait')).toEqual([]);
    expect(inferWaits([find(0, '#a'), find(60, '#a'), find(120, '#a', false)]).waits).toHaveLength(1);
  });

  it('counting all that there are, after one of them was read, is no further try', () => {
    const all = step(240, 250, { action: 'find', command: 'find elements', locator: css('.stop'), result: 5 });
    const { waits, insideWait } = inferWaits([
      find(0, '.stop'),
      text(6, '.stop', '…'),
      find(70, '.stop'),
      text(76, '.stop', 'Kuzu'),
      all,
    ]);
    expect(waits.filter(({ kind }) => kind === 'wait')).toHaveLength(1);
    expect(insideWait.has(all.id)).toBe(false);
  });

  it('a script with other arguments is another question, and one that is given the same element is the same', () => {
    const script = (at: number, input: string, given: unknown[], more: object = {}) =>
      step(at, at + 5, {
        action: 'script',
        command: 'execute script',
        input,
        arguments: given,
        result: false,
        ...more,
      });
    const waits = (...steps: Parameters<typeof inferWaits>[0]) =>
      inferWaits(steps).waits.filter(({ kind }) => kind === 'wait').length;
    expect(waits(script(0, 'f', ['#a']), script(60, 'f', ['#b']), script(120, 'f', ['#c']))).toBe(0);
    expect(waits(script(0, 'f', ['#a']), script(60, 'f', ['#a']), script(120, 'f', ['#a']))).toBe(1);
    // Each look found it anew.
    const of = (id: string) => ({ given: { [id]: { locator: css('#a'), foundBy: 'x' } }, locator: css('#a') });
    expect(waits(script(0, 'f', [{ el: 'e1' }], of('e1')), script(60, 'f', [{ el: 'e2' }], of('e2')))).toBe(1);
    expect(waits(script(0, 'f', [{ el: 'e1' }], of('e1')), script(60, 'g', [{ el: 'e2' }], of('e2')))).toBe(0);
  });

  it('a wait that ends in an error was not met', () => {
    const { waits } = inferWaits([find(0, '#a', false), find(60, '#a', false)]);
    expect(waits[0]!.data.ok).toBe(false);
  });

  it('the same element found twice at full speed is no wait', () => {
    expect(inferWaits([find(0, '#a'), find(6, '#a')]).waits).toEqual([]);
  });

  it('presses are never tries, and another locator ends the wait', () => {
    const press = step(130, 140, { action: 'press', locator: css('#a') });
    const { waits, insideWait } = inferWaits([find(0, '#a', false), find(60, '#a'), press, find(150, '#b')]);
    expect(waits).toHaveLength(1);
    expect(insideWait.has(press.id)).toBe(false);
  });
});

describe('sleeps and implicit waits', () => {
  it('a silence well above the usual pace is a fixed sleep, of its own length', () => {
    const { waits } = inferWaits([find(0, '#a'), find(8, '#b'), find(16, '#c'), find(520, '#d'), find(528, '#e')]);
    expect(waits.map((wait) => wait.kind)).toEqual(['pause']);
    expect(waits[0]!.until! - waits[0]!.at).toBe(499);
  });

  it('a client that is slow throughout does not sleep', () => {
    expect(inferWaits([find(0, '#a'), find(200, '#b'), find(400, '#c'), find(600, '#d')]).waits).toEqual([]);
  });

  it('a find that blocks under an implicit limit has waited inside', () => {
    const settings = step(0, 2, { action: 'settings', command: 'set timeouts', implicit: 3000 });
    const slow = step(4, 700, { action: 'find', command: 'find element', locator: css('#a') });
    expect(inferWaits([settings, slow]).waits[0]!.data).toMatchObject({ command: 'implicit wait', limitMs: 3000 });
    expect(inferWaits([slow]).waits).toEqual([]);
  });
});
