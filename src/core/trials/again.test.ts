import { describe, expect, it } from 'vitest';
import { againCall } from './again.ts';

const told = {
  tests: [
    { suite: 'booking / holds', title: 'holds a seat (evening)', file: 'holds.seat.ts' },
    { suite: 'booking / holds', title: 'holds a seat (evening)', file: 'holds.seat.ts' },
    { suite: 'booking', title: 'pays 5 % less', file: '-fares.ts' },
  ],
  run: 'nightly-184 again 1',
  repetition: 3,
  folder: '/w',
  address: 'http://127.0.0.1:4870',
  remote: 'http://127.0.0.1:4870/wd',
};

describe('what a test command is told', () => {
  it('is the tests, by title, file and as a whole, and where it is recorded', () => {
    const { environment } = againCall([], told);
    expect(environment).toMatchObject({
      ISKEL_RUN: 'nightly-184 again 1',
      ISKEL_REPETITION: '3',
      ISKEL_REMOTE: 'http://127.0.0.1:4870/wd',
      ISKEL_TITLES: 'holds a seat (evening)\npays 5 % less',
      ISKEL_FILES: 'holds.seat.ts\n./-fares.ts',
    });
    expect(JSON.parse(environment.ISKEL_TESTS!)).toHaveLength(3);
    const filter = new RegExp(environment.ISKEL_FILTER!);
    expect(filter.test('holds a seat (evening)')).toBe(true);
    expect(filter.test('holds a seat evening')).toBe(false);
  });

  it('is put into arguments where they ask for it', () => {
    expect(againCall(['--grep={filter}', '{files}', '--try', '{repetition}'], told).args).toEqual([
      '--grep=holds a seat \\(evening\\)|pays 5 % less',
      'holds.seat.ts',
      './-fares.ts',
      '--try',
      '3',
    ]);
  });

  it.each([
    ['--config=/etc/passwd', '[-]-config=\\/etc\\/passwd'],
    ['$(rm -rf x); `id`', '\\$\\(rm -rf x\\); `id`'],
    ['a\nb\0c', 'a b c'],
    ['{run}', '\\{run\\}'],
  ])('takes the title %j as a text and nothing else', (title, filter) => {
    const { args } = againCall(['{filter}'], { ...told, tests: [{ suite: '', title }] });
    expect(args).toEqual([filter]);
    expect(new RegExp(filter).test(title.replace(/[\0\n]/g, ' '))).toBe(true);
  });

  it('says when they are too many', () => {
    const tests = Array.from({ length: 5000 }, (_, i) => ({ suite: 'a suite', title: `a title of some length ${i}` }));
    expect(() => againCall([], { ...told, tests })).toThrow(/5000 tests are too many/);
  });
});

describe('names that come from anywhere', () => {
  const told = { tests: [], run: '', repetition: 1, folder: '/w', address: 'http://a', remote: 'http://a/wd' };
  const one = (file: string | undefined) => [{ suite: 's', title: 't', ...(file ? { file } : {}) }];

  it.each([
    ['--require=/tmp/x.js', 'require=/tmp/x.js'],
    ['- -x\0y', 'x y'],
    ['nightly-9', 'nightly-9'],
    ['--', 'run'],
  ])('a run called %j is no option of any program', (run, name) => {
    const { args, environment } = againCall(['{run}', '--run={run}'], { ...told, run });
    expect(args).toEqual([name, `--run=${name}`]);
    expect(environment.ISKEL_RUN).toBe(name);
  });

  it.each(['../../etc/passwd', '/etc/passwd', 'a/../../b', 'C:\\x', '\\\\host\\x'])(
    'no file elsewhere is named: %s',
    (file) => {
      expect(() => againCall(['{files}'], { ...told, tests: one(file) })).toThrow(/does not lie in \/w/);
      const { environment } = againCall(['x'], { ...told, tests: one(file) });
      expect(environment.ISKEL_FILES).toBe('');
      expect(environment.ISKEL_TESTS).not.toContain('etc');
    },
  );

  it.each(['a/b.spec.ts', '/w/a.spec.ts'])('one within is: %s', (file) =>
    expect(againCall(['{files}'], { ...told, tests: one(file) }).args).toEqual([file]),
  );
});
