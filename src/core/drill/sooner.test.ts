import { describe, expect, it } from 'vitest';
import { parseDrill } from './parse.ts';
import { fitFor, fitted, type Ended } from './sooner.ts';

const text = `drill "opens the ladder"
# kept as it is written

open "http://shop.lodos.example/"
press css "[data-nav=tools]"
find chip = css ".chip"
check text of css "main h1" is "Telescopic ladder"
check text of chip is "Cordless"
pause 40 ms
`;
const { drill } = parseDrill(text);
const fit = (ended: Ended): string | undefined => fitFor(drill!, ended)?.text;

describe('a drill that came sooner than its test', () => {
  it('waits until what it read has gone, or until what it looks for is there', () => {
    expect(fit({ line: 7, actual: 'Tools to borrow', absent: false })).toBe(
      'wait until text of css "main h1" is not "Tools to borrow" up to 5 s every 50 ms',
    );
    expect(fit({ line: 7, absent: true })).toBe('wait until css "main h1" is there up to 5 s every 50 ms');
    expect(fit({ line: 5, absent: true })).toBe('wait until css "[data-nav=tools]" is there up to 5 s every 50 ms');
    expect(fit({ line: 6, absent: true })).toBe('wait until css ".chip" is there up to 5 s every 50 ms');
    expect(fit({ line: 8, actual: '', absent: false })).toBe('wait until text of chip is not "" up to 5 s every 50 ms');
  });
  it('is left as it is where waiting changes nothing', () => {
    expect(fit({ line: 8, absent: true })).toBeUndefined();
    expect(fit({ line: 4, absent: false })).toBeUndefined();
    expect(fit({ line: 99, absent: true })).toBeUndefined();
    const waits = parseDrill(fitted(text, fitFor(drill!, { line: 7, absent: true })!)).drill!;
    expect(fitFor(waits, { line: 8, absent: true })).toBeUndefined();
    expect(fitFor(waits, { line: 8, actual: 'Tools to borrow', absent: false })).toBeDefined();
  });
  it('keeps the rest of its text', () => {
    const made = fitted(text, fitFor(drill!, { line: 7, actual: 'Tools "to" borrow', absent: false })!);
    expect(parseDrill(made).errors).toEqual([]);
    expect(made.split('\n').filter((line) => !line.startsWith('wait'))).toEqual(text.split('\n'));
    expect(made.split('\n')[6]).toContain('is not "Tools \\"to\\" borrow"');
  });
});
