import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readTap } from './tap.ts';

const read = (text: string): string[] =>
  readTap(text, 's').cases.map((one) => `${one.outcome} ${one.suite} | ${one.title}`);

describe('TAP as it comes', () => {
  it('subtests after or before the line that sums them up, at any depth', () => {
    const text = `TAP version 14
1..2
# Subtest: booking
    1..2
    # Subtest: holds
        ok 1 - one
        not ok 2 - two
        1..2
    not ok 1 - holds
    ok 2 - alone
not ok 1 - booking
ok 2 - last
`;
    expect(read(text)).toEqual([
      'passed s / booking / holds | one',
      'failed s / booking / holds | two',
      'passed s / booking | alone',
      'passed s | last',
    ]);
  });
  it('a subtest that failed as a whole is told where none of its cases did', () => {
    expect(read('# Subtest: desk\n    ok 1 - open\n    1..1\nnot ok 1 - desk # was left open\n1..1')).toEqual([
      'passed s / desk | open',
      'failed s | desk',
    ]);
  });
  it('directives, escapes, times and comments', () => {
    const { cases } = readTap(
      '1..4\nok 1 - seat \\#2A\nok 2 - later # skip the desk is closed\nnot ok 3 - cabin # TODO not sold\nnot ok 4 - fare # time=12.5ms\n#   got: 1\n#   expected: 2\n',
      's',
    );
    expect(cases[0]!.title).toBe('seat #2A');
    expect(cases[1]).toMatchObject({ outcome: 'skipped', message: 'the desk is closed' });
    expect(cases[2]).toMatchObject({ outcome: 'skipped', properties: { todo: 'true' } });
    expect(cases[3]).toMatchObject({ outcome: 'failed', title: 'fare', durationMs: 12.5 });
    expect(cases[3]!.message).toContain('got: 1');
  });
  it('what is not whole is told with its line', () => {
    const told = (text: string): string =>
      readTap(text, 's')
        .problems.map((one) => `${one.line}: ${one.message}`)
        .join('; ');
    expect(told('1..3\nok 1\nok 2')).toContain('3 tests were planned, 2 are told');
    expect(told('1..2\nok 1\nBail out! no desk')).toContain('3: the runner gave up here: no desk');
    expect(told('1..0 # no ferries today')).toContain('nothing was run: no ferries today');
    expect(told('ok 1\n  ---\n  message: x')).toContain('2: a YAML block is not closed');
    expect(told('not ok 1\n  ---\n  a: [1\n  ...\n1..1')).toContain('could not be read');
    expect(told('hello')).toContain('no test line');
  });
  it('YAML gives message, values, stack, place and duration; aliases do not grow', () => {
    const { cases } = readTap(
      'not ok 1 - fare\n  ---\n  message: wrong fare\n  severity: fail\n  expected: 384\n  found: 412\n  duration_ms: 7\n  at:\n    file: t/fare.js\n    line: 3\n  stack: |-\n    at t/fare.js:3:1\n  ...\n1..1',
      's',
    );
    expect(cases[0]).toMatchObject({ file: 't/fare.js', durationMs: 7, stack: 'at t/fare.js:3:1' });
    expect(cases[0]!.message).toBe('wrong fare\nexpected: "384"\nactual: "412"');
    const bomb = `not ok 1\n  ---\n  a: &a [x, x, x]\n${Array.from({ length: 12 }, (_, i) => `  b${i}: &b${i} [${`*${i ? `b${i - 1}` : 'a'}, `.repeat(9)}]`).join('\n')}\n  ...\n1..1`;
    expect(readTap(bomb, 's').problems[0]!.message).toContain('could not be read');
  });
  it('never does more than list problems, whatever it is given', () => {
    const piece = fc.constantFrom(
      'ok 1',
      'not ok',
      '  ---',
      '  ...',
      '    ok 1 - x',
      '1..3',
      '# Subtest: a',
      'Bail out!',
      '        not ok 2',
      'x: [',
      '\u0000',
      '#',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), (lines) => {
        const { cases, problems } = readTap(lines.join('\n'), 's');
        expect(cases.every((one) => one.suite.startsWith('s') && one.title !== '')).toBe(true);
        expect(cases.length + problems.length).toBeGreaterThan(0);
      }),
    );
  });
});
