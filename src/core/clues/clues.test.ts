import { describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../evidence/event.ts';
import { check, css, element, exchange, facts, intercepted, stale, step } from '../evidence/samples.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

const codes = (events: EvidenceEvent[], outcome: 'passed' | 'failed' = 'failed', message = ''): string[] =>
  findClues(sceneOf(events, facts(outcome, message))).map((clue) => clue.code);
const clue = (events: EvidenceEvent[], code: string, message = '') =>
  findClues(sceneOf(events, facts('failed', message))).find((one) => one.code === code);

/** Found at 100, the panel is rendered anew at 400, pressed at 412. */
function replaced(): EvidenceEvent[] {
  const found = step(100, 110, { action: 'find', locator: css('#hold'), element: 'el1' });
  return [
    found,
    element(90, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat', visible: true, coveredBy: null }),
    exchange(50, 391, { url: 'http://ferry.test/api/fare/e-1840' }),
    element(400, 'replaced', 'css=#hold', { node: 4, name: 'Hold seat', visible: true, coveredBy: null }),
    step(412, 420, { action: 'press', locator: css('#hold'), element: 'el1', foundBy: found.id, error: stale }),
  ];
}

describe('held across a replacement', () => {
  it('says what was replaced, and when, with press, find and change as evidence', () => {
    const events = replaced();
    const found = clue(events, 'held-across-replacement')!;
    expect(found.summary).toBe('“Hold seat” was replaced 12 ms before the press');
    expect(found.evidence).toEqual([events[3]!.id, events[4]!.id, events[0]!.id]);
    expect(found.at).toBe(400);
  });

  it('names the answer that came right before', () => {
    expect(clue(replaced(), 'replaced-after-response')!.summary).toBe(
      '/api/fare/e-1840 answered 9 ms before the replacement; it was under way at the find',
    );
  });

  it('without a lifeline only repeats what the browser told', () => {
    expect(codes(replaced().filter((event) => event.lane !== 'element'))).toEqual([
      'nothing-in-flight',
      'stale-reference-told',
    ]);
  });

  it('is silent when the replacement came before the find', () => {
    const events = replaced().map((event) =>
      event.lane === 'element' && event.kind === 'replaced' ? { ...event, at: 95 } : event,
    );
    expect(codes(events)).not.toContain('held-across-replacement');
  });

  it('is silent when nothing was stale', () => {
    const events = replaced().map((event) =>
      event.lane === 'step' ? { ...event, data: { ...event.data, error: undefined } } : event,
    );
    expect(codes(events, 'passed')).toEqual([]);
  });
});

describe('press point covered', () => {
  const events = (): EvidenceEvent[] => [
    element(10, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat', visible: true, coveredBy: null }),
    element(300, 'covered', 'css=#hold', {
      node: 1,
      name: 'Hold seat',
      visible: true,
      coveredBy: 'div#notice.notice “Storm warning”',
    }),
    step(412, 420, { action: 'press', locator: css('#hold'), error: intercepted }),
  ];

  it('names what lay there by its words, with the point', () => {
    const found = clue(events(), 'press-point-covered')!;
    expect(found.summary).toBe('“Storm warning” lay over the press point of “Hold seat” at (1150, 610)');
    expect(found.at).toBe(300);
    expect(found.evidence).toHaveLength(2);
  });

  it('without a lifeline names it by its markup', () => {
    const only = events().filter((event) => event.lane === 'step');
    expect(clue(only, 'press-point-covered')!.summary).toContain('“div#notice.notice.shown” lay over');
  });
});

describe('acted before arrival', () => {
  const events = (answered = true): EvidenceEvent[] => [
    step(100, 130, { action: 'type', locator: css('#port'), input: 'Kuzu' }),
    exchange(140, answered ? 700 : 500, {
      url: 'http://ferry.test/api/ports?q=Kuzu',
      ...(answered ? {} : { failed: 'still under way when the attempt ended', status: undefined }),
    }),
    element(150, 'appeared', 'css=li', { node: 2, name: 'Lodos Harbour', text: 'Lodos Harbour', visible: true }),
    step(200, 230, { action: 'press', locator: css('li') }),
    step(240, 245, { action: 'read', subject: 'property value', locator: css('#port'), result: 'Lodos Harbour' }),
    check(246, false, 'Kuzu Island', 'Lodos Harbour'),
    ...(answered
      ? [element(704, 'changed', 'css=li', { node: 2, name: 'Kuzu Island', text: 'Kuzu Island', visible: true })]
      : []),
  ];
  const message = 'expected "Kuzu Island" but got "Lodos Harbour"';

  it('says how long before the answer the target was used', () => {
    const found = clue(events(), 'acted-before-arrival', message)!;
    expect(found.summary).toBe('“Lodos Harbour” was used 500 ms before /api/ports?q=Kuzu answered and changed it');
    expect(found.strength).toBeGreaterThan(0.9);
  });

  it('says less when the recording ended before the answer', () => {
    const found = clue(events(false), 'acted-before-arrival', message)!;
    expect(found.strength).toBeLessThan(0.7);
    expect(found.summary).toContain('still under way');
  });

  it('knows by what was typed that the page was about to ask', () => {
    const late = (query: string): EvidenceEvent[] =>
      events(false).map((event) =>
        event.lane === 'network'
          ? exchange(235, 500, { ...event.data, url: `http://ferry.test/api/ports?q=${query}` })
          : event,
      );
    expect(clue(late('Kuzu'), 'acted-before-arrival', message)!.summary).toBe(
      '“Lodos Harbour” was used 35 ms before the page asked for /api/ports?q=Kuzu, for what was typed right before',
    );
    expect(codes(late('Harbour'), 'failed', message)).not.toContain('acted-before-arrival');
  });

  it('sees that the expected value stood there later', () => {
    expect(clue(events(), 'wrong-choice-kept', message)!.summary).toBe(
      '“Lodos Harbour” was pressed; “Kuzu Island” stood there 474 ms later',
    );
  });

  it('knows what was expected from the message alone, also where the recording ended before the answer', () => {
    const unnoted = (answered: boolean): EvidenceEvent[] => events(answered).filter(({ lane }) => lane !== 'note');
    expect(clue(unnoted(true), 'wrong-choice-kept', message)!.strength).toBeGreaterThan(0.8);
    expect(clue(unnoted(false), 'wrong-choice-kept', message)!.summary).toBe(
      '“Lodos Harbour” was pressed and its value kept, while /api/ports?q=Kuzu was never answered',
    );
    expect(codes(unnoted(true), 'failed', 'it broke')).not.toContain('wrong-choice-kept');
  });

  it('is silent when the answer changes nothing about the target', () => {
    const unchanged = events().filter((event) => !(event.lane === 'element' && event.kind === 'changed'));
    expect(codes(unchanged, 'failed', message)).not.toContain('acted-before-arrival');
  });
});

describe('clues against', () => {
  it('the same node when found and used speaks against a replacement', () => {
    const found = step(100, 110, { action: 'find', locator: css('#a') });
    const events = [
      found,
      element(90, 'appeared', 'css=#a', { node: 1, visible: true, coveredBy: null }),
      step(300, 310, { action: 'press', locator: css('#a'), foundBy: found.id, error: intercepted }),
    ];
    expect(codes(events)).toContain('target-kept-identity');
  });

  it('nothing in flight needs network evidence to be said', () => {
    const press = step(300, 310, { action: 'press', locator: css('#a'), error: intercepted });
    expect(codes([press])).not.toContain('nothing-in-flight');
    expect(codes([exchange(10, 20, { url: 'http://ferry.test/' }), press])).toContain('nothing-in-flight');
  });
});
