import { describe, expect, it } from 'vitest';
import { sketchOf } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { css, element, exchange, facts, press, step, url } from '../evidence/samples.ts';
import type { Clue } from './clue.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

/** What is told where no attempt is known to pass, and several failed alike. */

const typed = (at: number, locator: string, input: string): EvidenceEvent =>
  step(at, at + 10, { action: 'type', command: 'element send keys', locator: css(locator), input });
const read = (at: number, locator: string, result: string): EvidenceEvent =>
  step(at, at + 6, { action: 'read', command: 'get text', subject: 'text', locator: css(locator), result });
const title = (at: number, result: string): EvidenceEvent =>
  step(at, at + 6, { action: 'read', command: 'get title', subject: 'title', result });
const differs = (expected: string, actual: string): string => `value: expected "${expected}" but got "${actual}"`;

function told(events: EvidenceEvent[], message: string, others: EvidenceEvent[][] = []): Clue[] {
  const about = facts('failed', message);
  const kin = others.map((one, i) => sketchOf(prepare(one, about), { id: `k${i}`, startedAt: 0 }));
  return findClues({ ...sceneOf(events, about), kin });
}
const one = (clues: Clue[], code: Clue['code']): Clue | undefined => clues.find((clue) => clue.code === code);

describe('odd characters in what was typed', () => {
  const visit = (code: string): EvidenceEvent[] => [
    typed(50, '#code', code),
    press(90, '#look'),
    read(200, '#told', 'No'),
  ];
  const message = differs('Good', 'No');

  it('say more when every one that failed so typed another text that holds them', () => {
    const clue = one(told(visit('LF1+AB'), message, [visit('LF7+CD'), visit('LF3+XY')]), 'odd-input')!;
    expect(clue.summary).toContain('each typing another text');
    const steady = one(told(visit('LF1+AB'), message, [visit('LF1+AB')]), 'odd-input')!;
    expect(steady.strength).toBeLessThan(clue.strength);
    expect(steady.summary).not.toContain('another text');
  });

  it('say no more when one that failed so typed none', () => {
    const clue = one(told(visit('LF1+AB'), message, [visit('LF7CD')]), 'odd-input')!;
    expect(clue.summary).not.toContain('another text');
  });
});

it('a field taken as the first of several says most when what was typed is missing in what was found', () => {
  const visit = [
    element(0, 'appeared', 'css=input', { node: 1, count: 2 }),
    typed(50, 'input', 'Ece'),
    read(200, '#sent', 'Thank you'),
  ];
  const strength = (expected: string): number =>
    one(told(visit, differs(expected, 'Thank you')), 'several-match')!.strength;
  expect(strength('Thank you, Ece')).toBe(1);
  expect(strength('Thank you all')).toBeLessThan(1);
});

describe('what the page was served with', () => {
  const answered = (mime: string, text: string): EvidenceEvent[] => {
    const request = exchange(20, 40, { url: `${url}/api/rules` });
    const data = { exchange: request.id, of: 'response' as const, mime, text, length: text.length };
    return [request, { id: 'body', lane: 'body', kind: 'body', at: 40, clock: 'browser', data }];
  };

  it('says nothing about a title, which is always what its page was served with', () => {
    const html = answered('text/html', '<title>One moment · Lodos Ferries</title>');
    const message = differs('Account · Lodos Ferries', 'One moment · Lodos Ferries');
    expect(one(told([...html, title(100, 'One moment · Lodos Ferries')], message), 'stated-by-page')).toBeUndefined();
    expect(
      one(told([...html, read(100, 'h1', 'One moment · Lodos Ferries')], message), 'stated-by-page'),
    ).toBeDefined();
  });

  it('says nothing of what a service counts afresh, and something of what it holds as a rule', () => {
    const message = differs('up to 9 days free', 'up to 7 days free');
    const visit = read(100, '#rule', 'up to 7 days free');
    expect(
      one(told([...answered('application/json', '{"limitDays":7}'), visit], message), 'stated-by-page'),
    ).toBeDefined();
    expect(
      one(told([...answered('application/json', '{"freeDays":7}'), visit], message), 'stated-by-page'),
    ).toBeUndefined();
  });
});
