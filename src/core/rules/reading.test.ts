import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { analyse, type Analysis } from '../analyse.ts';
import { usualThresholds, type Thresholds } from '../clues/thresholds.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { css, step } from '../evidence/samples.ts';
import { ownBy } from './hosts.ts';
import { previewHosts, previewLimits, previewThresholds } from './preview-reading.ts';

describe('whose a host is', () => {
  const rules = { own: ['*.lodos.example', 'pay.example:8443'], outside: ['stats.lodos.example', 'Ads.example'] };

  it('is said by its whole name, by its port, or by the end of its name; the nearer word holds', () => {
    expect(ownBy(rules, 'seats.lodos.example')).toBe(true);
    expect(ownBy(rules, 'seats.lodos.example:4871')).toBe(true);
    expect(ownBy(rules, 'a.b.lodos.example')).toBe(true);
    expect(ownBy(rules, 'stats.lodos.example')).toBe(false);
    expect(ownBy(rules, 'ads.EXAMPLE')).toBe(false);
    expect(ownBy(rules, 'pay.example:8443')).toBe(true);
    for (const unsaid of ['lodos.example', 'notlodos.example', 'pay.example', 'pay.example:1', 'x.ads.example'])
      expect(ownBy(rules, unsaid), unsaid).toBeUndefined();
    expect(ownBy({ own: ['a.example'], outside: ['a.example'] }, 'a.example')).toBe(false);
  });

  it('says nothing of hosts that nobody named, whatever they are called', () => {
    fc.assert(
      fc.property(fc.domain(), fc.domain(), (named, host) => {
        fc.pre(named !== host);
        expect(ownBy({ own: [named], outside: [] }, host)).toBeUndefined();
        expect(ownBy({ own: [], outside: [named] }, named)).toBe(false);
      }),
    );
  });

  it('is tried on what was asked for', () => {
    const asked = (attempt: string, host: string, own: boolean, requests: number) => ({
      attempt,
      hosts: [{ host, own, requests }],
    });
    expect(
      previewHosts(rules, [
        asked('a1', 'seats.lodos.example', false, 3),
        asked('a2', 'seats.lodos.example', false, 4),
        asked('a3', 'stats.lodos.example', false, 9),
        asked('a4', 'ads.example', true, 1),
        asked('a5', 'ferry.test', true, 8),
      ]),
    ).toEqual({
      of: 5,
      changed: [
        { host: 'seats.lodos.example', requests: 7, attempts: 2, own: true },
        { host: 'ads.example', requests: 1, attempts: 1, own: false },
      ],
    });
  });
});

describe('thresholds of clues', () => {
  const read = (i: number, ms: number): EvidenceEvent[] => [
    step(i * 200, i * 200 + ms, { action: 'find', command: 'find element', locator: css(`#n${i}`) }),
  ];
  const attempt = (ms: number, thresholds: Thresholds): Analysis =>
    analyse(
      Array.from({ length: 8 }, (_, i) => read(i, ms)).flat(),
      {
        outcome: 'failed',
        message: 'no seat',
        stack: '',
        environment: { browser: 'chromium', key: 'chromium' } as never,
        thresholds,
      },
      { id: 'a', startedAt: 0, passing: [] },
    );
  const slow = ({ clues }: Analysis): boolean => clues.some(({ code }) => code === 'commands-slow');

  it('are from where on something is told', () => {
    expect(slow(attempt(100, usualThresholds))).toBe(true);
    expect(slow(attempt(100, { ...usualThresholds, slowCommandMs: 150 }))).toBe(false);
    expect(slow(attempt(40, usualThresholds))).toBe(false);
    expect(slow(attempt(40, { ...usualThresholds, slowCommandMs: 30 }))).toBe(true);
  });

  it('are tried on attempts, and told by what they change', () => {
    const [before, after] = [attempt(100, usualThresholds), attempt(100, { ...usualThresholds, slowCommandMs: 150 })];
    const told = previewThresholds([
      { attempt: 'a1', title: 'holds', before, after },
      { attempt: 'a2', title: 'pays', before, after: before },
    ]);
    expect(told).toMatchObject({ of: 2, changed: 1, examples: [{ attempt: 'a1', title: 'holds' }] });
    expect(told.examples[0]!.before).toContain('100 ms each');
    expect(told.examples[0]!.after).not.toContain('100 ms each');
  });
});

it('limits are tried on what attempts hold', () => {
  const sizes = [
    { events: 900, picturesMb: 3 },
    { events: 5000, picturesMb: 1 },
    { events: 10, picturesMb: 90 },
  ];
  expect(previewLimits({ events: 1000, picturesMb: 50 }, sizes)).toEqual({
    of: 3,
    cut: 2,
    most: { events: 5000, picturesMb: 90 },
  });
  expect(previewLimits({ events: 5000, picturesMb: 90 }, sizes).cut).toBe(0);
});
