import { describe, expect, it } from 'vitest';
import { floodKind, Floods, most, withinMs } from './floods.ts';

describe('a flood of events', () => {
  const floods = new Floods();
  const comes = (count: number, from: number, everyMs: number): (string | undefined)[] =>
    Array.from({ length: count }, (_, i) => floods.comes('network.beforeRequestSent', 'requests', from + i * everyMs));

  it('is one where so many came within the time, and is told once', () => {
    const told = comes(most + 10, 0, 1);
    expect(told.filter(Boolean)).toEqual(['requests']);
    expect(told.indexOf('requests')).toBe(most - 1);
    expect([...floods.over]).toEqual(['requests']);
    expect(floods.begin()).toEqual(['requests']);
    expect([...floods.over]).toEqual([]);
  });

  it('is none where as many come in more time, nor by events that begin nothing', () => {
    expect(comes(3 * most, 1e6, (1.5 * withinMs) / most).filter(Boolean)).toEqual([]);
    for (let i = 0; i < 2 * most; i++)
      expect(floods.comes('network.responseStarted', 'requests', 2e6 + i)).toBeUndefined();
  });

  it('knows requests and console lines', () => {
    expect(
      ['network.fetchError', 'goog:cdp.Network.loadingFinished', 'log.entryAdded', 'script.message'].map(floodKind),
    ).toEqual(['requests', 'requests', 'console lines', undefined]);
  });
});
