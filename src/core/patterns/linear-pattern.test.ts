import { describe, expect, it } from 'vitest';
import { linearPattern } from './linear-pattern.ts';

describe('a pattern that a person wrote', () => {
  it('fits and replaces as regular expressions do', () => {
    expect(linearPattern('TRY-\\d{4}').fits('fare TRY-0042')).toBe(true);
    expect(linearPattern('^fare$').fits('fares')).toBe(false);
    expect(linearPattern('TRY-\\d{4}').replace('a TRY-0042 b TRY-0043', '«$1»')).toBe('a «$1» b «$1»');
    expect(linearPattern('(?i)seat').fits('Seat 3')).toBe(true);
  });

  it.each(['(', '[a', 'a{2,1}', 'x'.repeat(501)])('says what is wrong with “%s”', (source) => {
    expect(() => linearPattern(source)).toThrow(RangeError);
  });

  it.each(['(?=a)', '(?!a)', '(?<=a)b', '(a)\\1'])('refuses what cannot be run in linear time: %s', (source) => {
    expect(() => linearPattern(source)).toThrow(/unbounded time/);
  });

  it.each(['(a+)+$', '(a|a)*b', '(.*a){12}$', '(x+x+)+y'])(
    '%s does not stand still on what it was made for',
    (source) => {
      const cpu = (n: number): number => {
        const before = process.cpuUsage();
        linearPattern(source).fits(`${'a'.repeat(n)}x!`);
        const { user, system } = process.cpuUsage(before);
        return (user + system) / 1000;
      };
      cpu(1000);
      const [few, many] = [cpu(10_000), cpu(100_000)];
      expect(many).toBeLessThan(Math.max(few, 20) * 30);
    },
  );
});
