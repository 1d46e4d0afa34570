import { describe, expect, it } from 'vitest';
import { sketchOf } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { css, element, exchange, facts, press, reads, step, url } from '../evidence/samples.ts';
import { sceneOf } from '../clues/scene.ts';
import { relevanceTold, waitsFor } from '../clues/waits-for.ts';
import type { Suspect } from './score.ts';
import { lackingEvidence, wouldTell } from './would-tell.ts';

const passed = (events: EvidenceEvent[], id: string) =>
  sketchOf(prepare(events, facts('passed', '')), { id, startedAt: 0 });
const sceneOfFailed = (events: EvidenceEvent[], passing: ReturnType<typeof passed>[], message: string) =>
  sceneOf(events, facts('failed', message), { id: 'f', startedAt: 0, passing });

describe('what would tell', () => {
  const clue = (code: Suspect['for'][number]['code']) => ({ code, at: 0, summary: '', strength: 0.7, evidence: [] });
  const suspect = (
    cause: Suspect['cause'],
    probability: number,
    ...codes: Suspect['for'][number]['code'][]
  ): Suspect => ({
    cause,
    probability,
    for: codes.map(clue),
    against: [],
  });

  it('names the two that remain, and for each the strongest sign that was not seen', () => {
    const told = wouldTell(
      [
        suspect('wrong-window', 0.2, 'no-element-told'),
        suspect('brittle-locator', 0.15, 'no-element-told', 'generated-locator', 'like-stands-there'),
        suspect('early-check', 0.1),
        suspect('slow-response', 0.05, 'timeout-told'),
      ],
      ['one passing attempt of this test'],
    )!;
    expect(told.between).toEqual(['wrong-window', 'brittle-locator']);
    expect(told.evidence).toEqual(['one passing attempt of this test']);
    expect(told.signs.map(({ cause }) => cause)).toEqual(['wrong-window']);
    expect(told.signs[0]!.sign).toMatch(/^What was not found .* another window/);
    expect(wouldTell([suspect('early-check', 0.2)], [])).toBeUndefined();
  });

  it('asks for the evidence that is not there', () => {
    const message = "value: expected 'a' but got 'b'";
    const events = [reads(50, 'b')];
    expect(lackingEvidence(sceneOfFailed([], [], message))).toEqual([
      'its steps and its page: record the test through Iskel',
      'one passing attempt of this test',
      'its console',
      'a second attempt that fails so',
    ]);
    const known = lackingEvidence(sceneOfFailed(events, [passed(events, 'p1')], message));
    expect(known[0]).toBe('2 more passing attempts of this test');
    expect(known[1]).toContain('which this browser did not tell');
  });
});

describe('what a step waits for', () => {
  const visit = (answeredAt: number, told: string): EvidenceEvent[] => [
    step(0, 20, { action: 'open', command: 'navigate to', label: 'Open /fares', input: `${url}/fares` }),
    press(100, '#price', { label: 'Press on “Price”' }),
    exchange(120, answeredAt, { url: `${url}/api/fare` }),
    element(30, 'appeared', 'css=#out', { node: 1, text: '…', visible: true }),
    ...(answeredAt < 900
      ? [element(answeredAt + 10, 'changed', 'css=#out', { node: 1, text: '12', visible: true })]
      : []),
    step(900, 906, { action: 'read', command: 'get text', subject: 'text', locator: css('#out'), result: told }),
    exchange(10, 6000, { url: `${url}/live`, type: 'eventsource' }),
  ];
  const passing = [200, 220, 240].map((at, i) => passed(visit(at, '12'), `p${i}`));

  it('is a chain from its target back to what asked for it, with how it fared', () => {
    const chain = waitsFor(sceneOfFailed(visit(3000, '…'), passing, "fare: expected '12' but got '…'"));
    expect(chain).toHaveLength(1);
    expect(chain[0]).toMatchObject({
      kind: 'answer',
      key: 'GET /api/fare',
      fed: { hits: 3, of: 3 },
      here: 'was still under way here after 786 ms',
      asked: 'Press on “Price”',
    });
    expect(waitsFor(sceneOfFailed(visit(3000, '…'), passing.slice(0, 1), "fare: expected '12' but got '…'"))).toEqual(
      [],
    );
  });

  const pressed = (shownAt: number | undefined, told: string): EvidenceEvent[] => [
    step(0, 20, { action: 'open', command: 'navigate to', label: 'Open /fares', input: `${url}/fares` }),
    press(400, '#price', { label: 'Press on “Price”' }),
    element(30, 'appeared', 'css=#out', { node: 1, text: '…', visible: true }),
    ...(shownAt ? [element(shownAt, 'changed', 'css=#out', { node: 1, text: '12', visible: true })] : []),
    step(1900, 1906, { action: 'read', command: 'get text', subject: 'text', locator: css('#out'), result: told }),
  ];

  it('ends at the act of the test where no answer is between them', () => {
    const upon = [425, 430, 440].map((at, i) => passed(pressed(at, '12'), `p${i}`));
    const [only] = waitsFor(sceneOfFailed(pressed(undefined, '…'), upon, "fare: expected '12' but got '…'"));
    expect(only).toMatchObject({ kind: 'act', key: 'Press on “Price”', fed: { hits: 3, of: 3 } });
    expect(relevanceTold([only!], css('#out'))).toEqual({
      target: '#out',
      sources: [
        {
          kind: 'act',
          summary: expect.stringContaining('right after Press on “Price”, which was done here') as string,
          attempts: [3, 3],
        },
      ],
    });
    // What comes long after it came for another reason.
    const later = [1300, 1500, 1700].map((at, i) => passed(pressed(at, '12'), `p${i}`));
    expect(waitsFor(sceneOfFailed(pressed(undefined, '…'), later, "fare: expected '12' but got '…'"))).toEqual([]);
  });
});
