import { describe, expect, it } from 'vitest';
import type { EvidenceEvent, PageEvent } from './event.ts';
import { heldAfter, holds } from './held.ts';
import { prepare } from './prepare.ts';
import { css, facts, page, step } from './samples.ts';

const report = (at: number, text: string, label = 'input#who'): PageEvent => page(at, 'held-value', { label, text });
const type = (at: number, input: string) =>
  step(at, at + 20, { action: 'type', command: 'element send keys', locator: css('#who'), input });
const held = (events: EvidenceEvent[], which = 0) => {
  const evidence = prepare(events, facts('passed'));
  return heldAfter(evidence, evidence.steps[which]!)?.text;
};

describe('what a field held after typing', () => {
  it('is its last report before the next step that types, empties or leaves', () => {
    expect(held([type(100, 'Ada'), report(110, 'Ad'), report(121, 'Ada')])).toBe('Ada');
    expect(held([type(100, 'Ada'), report(121, 'Ada'), report(400, '')])).toBe('');
    expect(held([type(100, 'Ada'), report(121, 'Ada'), type(300, 'Berk'), report(321, 'Berk')])).toBe('Ada');
  });

  it('is told of the field that was typed into, whatever others report', () => {
    expect(held([type(100, 'Ada'), report(110, 'Ada'), report(130, 'none', 'input#remark')])).toBe('Ada');
  });

  it('is unknown where nothing reported, or what was typed is a key or a secret', () => {
    expect(held([type(100, 'Ada')])).toBeUndefined();
    expect(held([type(100, '\uE007'), report(110, 'x')])).toBeUndefined();
    expect(held([type(100, '«masked»'), report(110, '«masked»')])).toBeUndefined();
    expect(held([step(100, 120, { action: 'press', locator: css('#who') }), report(110, 'x')])).toBeUndefined();
  });
});

describe('a field holds what was typed', () => {
  it.each([
    ['Ada', 'Ada'],
    ['Dr Ada', 'Ada'],
    ['1,240', '1240'],
    ['0532 111 22', '053211122'],
    ['«masked»', 'anything'],
    ['C:\\fakepath\\scan.png', '/home/ada/papers/scan.png'],
    ['C:\\fakepath\\scan.png', 'D:\\papers\\scan.png'],
    ['C:\\fakepath\\a.png', '/papers/a.png\n/papers/b.png'],
  ])('“%s” does for “%s”', (is, typed) => expect(holds(is, typed)).toBe(true));
  it.each([
    ['', 'Ada'],
    ['Ad', 'Ada'],
    ['124', '1240'],
    ['---', '***'],
    ['C:\\fakepath\\scan.png', '/papers/other.png'],
  ])('“%s” does not for “%s”', (is, typed) => expect(holds(is, typed)).toBe(false));
});
