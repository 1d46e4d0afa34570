import { describe, expect, it } from 'vitest';
import type { StepData } from '../../core/evidence/event.ts';
import { elementKey, readCommand } from './commands.ts';
import { WindowTrack } from './window-track.ts';

const asked: [parent: string, frame: unknown][] = [];
const track = (): WindowTrack => {
  asked.length = 0;
  const windows = new WindowTrack((parent, frame) => {
    asked.push([parent, frame]);
    return Promise.resolve('number' in frame ? `${parent}/${frame.number}` : `${parent}/${frame.element}`);
  });
  windows.begins('w1');
  return windows;
};
const at = (windows: WindowTrack): StepData => {
  const data = {} as StepData;
  windows.stamp(data);
  return data;
};
const does = (
  windows: WindowTrack,
  method: string,
  path: string,
  body: Record<string, unknown> = {},
  value?: unknown,
): void => windows.follow(readCommand(method, path), body, value);
const settled = (): Promise<void> => new Promise((done) => setImmediate(done));

describe('where a session speaks to', () => {
  it('is the window it began in, until it goes to another or closes its own', () => {
    const windows = track();
    expect(at(windows)).toEqual({ window: 'w1', context: 'w1' });
    does(windows, 'POST', '/window/new', {}, { handle: 'w2' });
    expect(at(windows).window).toBe('w1');
    does(windows, 'POST', '/window', { handle: 'w2' });
    expect(at(windows).window).toBe('w2');
    does(windows, 'DELETE', '/window');
    expect(at(windows)).toEqual({});
    does(windows, 'POST', '/window', { handle: 'w1' });
    expect(at(windows).window).toBe('w1');
  });

  it('is a frame in it, by number or element, as deep as it went, and out again', async () => {
    const windows = track();
    does(windows, 'POST', '/frame', { id: 1 });
    does(windows, 'POST', '/frame', { id: { [elementKey]: 'el' } });
    await settled();
    expect(at(windows)).toEqual({ window: 'w1', context: 'w1/1/el' });
    does(windows, 'POST', '/frame/parent');
    expect(at(windows).context).toBe('w1/1');
    does(windows, 'POST', '/frame', { id: null });
    expect(at(windows).context).toBe('w1');
    expect(asked).toEqual([
      ['w1', { number: 1 }],
      ['w1/1', { element: 'el' }],
    ]);
  });

  it('is known for steps that came before the browser had told which frame it is', async () => {
    const windows = track();
    does(windows, 'POST', '/frame', { id: 0 });
    const early = at(windows);
    expect(early).toEqual({ window: 'w1' });
    await settled();
    expect(early).toEqual({ window: 'w1', context: 'w1/0' });
  });

  it.each([
    ['POST', '/url'],
    ['POST', '/refresh'],
  ])('%s %s leaves the frames, as the specification says', async (method, path) => {
    const windows = track();
    does(windows, 'POST', '/frame', { id: 0 });
    await settled();
    does(windows, method, path, { url: 'http://ferry.test/' });
    expect(at(windows).context).toBe('w1');
  });

  it('back and forward do not', async () => {
    const windows = track();
    does(windows, 'POST', '/frame', { id: 0 });
    await settled();
    does(windows, 'POST', '/back');
    expect(at(windows).context).toBe('w1/0');
  });

  it('a frame that cannot be asked for has a window and no context', async () => {
    const windows = new WindowTrack();
    windows.begins('w1');
    does(windows, 'POST', '/frame', { id: 0 });
    await settled();
    expect(at(windows)).toEqual({ window: 'w1' });
  });

  it('numbers windows in the order in which the test met them', () => {
    const windows = track();
    does(windows, 'GET', '/window/handles', {}, ['w1', 'w3', 'w2']);
    expect(['w1', 'w3', 'w2', 'w9'].map((handle) => windows.numberOf(handle))).toEqual([1, 2, 3, undefined]);
  });

  it('stands whatever a client sends', () => {
    const windows = track();
    for (const value of [null, 7, 'x', [], {}, [null, { a: 1 }]]) {
      does(windows, 'GET', '/window/handles', {}, value);
      does(windows, 'GET', '/window', {}, value);
      does(windows, 'POST', '/window/new', {}, value);
      does(windows, 'POST', '/frame', { id: value });
      does(windows, 'POST', '/window', { handle: value });
    }
    expect(() => at(windows)).not.toThrow();
  });
});
