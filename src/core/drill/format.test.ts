import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { completionsAt } from './complete.ts';
import { formatDrill } from './format.ts';
import { parseDrill } from './parse.ts';

describe('formatting', () => {
  it('writes every line as it is printed, and keeps remarks and gaps', () => {
    expect(
      formatDrill('  drill   "x" # why\n\n# head\n open   "http://ferry.test/#a"   # opens # it\npause 2000 ms\n   \n'),
    ).toBe('drill "x"   # why\n\n# head\nopen "http://ferry.test/#a"   # opens # it\npause 2 s\n');
  });

  it('leaves a text with faults as it is', () => {
    expect(formatDrill('open  "x"\nfly')).toBe('open  "x"\nfly');
  });

  it('does the same thing afterwards, and nothing more the second time', () => {
    const line = fc.constantFrom(
      'open "a#b"',
      ' back',
      '',
      '# r',
      'press  css "#x" # y',
      'wait until title is "a"',
      'pause 1 s',
    );
    fc.assert(
      fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
        const text = lines.join('\n');
        const once = formatDrill(text);
        expect(formatDrill(once)).toBe(once);
        expect(parseDrill(once).drill?.lines.map(({ do: what }) => what)).toEqual(
          parseDrill(text).drill?.lines.map(({ do: what }) => what),
        );
      }),
    );
  });
});

describe('completing', () => {
  const drill = 'find hold = css "#hold"\nremember fare = text of css ".fare"\n';
  const at = (line: string): string[] =>
    completionsAt(drill + line, drill.length + line.length).map(({ insert }) => insert);

  it.each([
    ['pr', ['press']],
    ['press ', ['hold', 'css "#hold"', 'css ".fare"']],
    ['press h', ['hold']],
    ['wait until te', ['text of']],
    ['wait until text of ', ['hold', 'css "#hold"']],
    ['type ', ['fare']],
    ['check text of css ".fare" i', ['is not', 'is at least', 'is at most', 'is']],
    ['draw code = le', ['letters']],
    ['when css "#a" is there then pre', ['press']],
    ['type "x" in', ['into']],
  ])('%s goes on with %j', (line, words) => {
    expect(at(line)).toEqual(expect.arrayContaining(words));
  });

  it('takes away what was begun', () => {
    expect(completionsAt('scr', 3)).toContainEqual({ insert: 'screenshot', replaces: 3 });
  });

  it('offers first how the pages of the application tell that they are ready', () => {
    const ready = ['request "/api/fare" is answered'];
    expect(completionsAt('wait until ', 11, ready)[0]).toEqual({ insert: ready[0], replaces: 0 });
    expect(completionsAt('press ', 6, ready)).not.toContainEqual({ insert: ready[0], replaces: 0 });
  });

  it('never throws, wherever it is asked', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 80 }),
        fc.nat(90),
        (text, caret) => void completionsAt(text, Math.min(caret, text.length)),
      ),
    );
  });
});
