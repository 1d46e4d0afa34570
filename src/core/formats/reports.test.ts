import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { JunitReader } from './junit.ts';
import { readTap } from './tap.ts';
import type { ReportCase, Trouble } from './report.ts';

const folder = new URL('../../../tests/fixtures/reports/', import.meta.url);
function read(name: string): { cases: ReportCase[]; problems: Trouble[] } {
  const text = readFileSync(new URL(name, folder), 'utf8');
  if (name.endsWith('.tap')) return readTap(text, name.replace('.tap', ''));
  const cases: ReportCase[] = [];
  const reader = new JunitReader((one) => cases.push(one));
  // In pieces of a size that cuts tags and texts anywhere.
  for (let at = 0; at < text.length; at += 97) reader.write(text.slice(at, at + 97));
  reader.close();
  return { cases, problems: reader.problems };
}
const line = (one: ReportCase): string => `${one.outcome} ${one.suite} | ${one.title}`;

describe('reports of general runners', () => {
  it.each([
    [
      'vitest.xml',
      [
        'passed tests/holds.test.ts | booking/holds > holds a seat on the evening sailing',
        'failed tests/holds.test.ts | booking/holds > shows the fare before checkout',
        'skipped tests/holds.test.ts | booking/holds > refuses a seat that is taken',
        'passed tests/holds.test.ts | booking/holds > gets the last seat on the second try',
        'failed tests/holds.test.ts | booking/holds > waits for the pass',
      ],
    ],
    [
      'node.xml',
      [
        'passed booking/holds | holds a seat on the evening sailing',
        'failed booking/holds | shows the fare before checkout',
        'skipped booking/holds | refuses a seat that is taken',
        'skipped booking/holds | prints the boarding pass',
        'failed booking/holds | waits for the ferry',
      ],
    ],
    [
      'node.tap',
      [
        'passed node / booking/holds | holds a seat on the evening sailing',
        'failed node / booking/holds | shows the fare before checkout',
        'skipped node / booking/holds | refuses a seat that is taken',
        'passed node / booking/holds | prints the boarding pass',
        'failed node / booking/holds | waits for the ferry',
      ],
    ],
    [
      'pytest.xml',
      [
        'passed test_holds | test_holds_a_seat',
        'failed test_holds | test_shows_the_fare',
        'skipped test_holds | test_refuses_a_taken_seat',
        'skipped test_holds | test_known_trouble',
        'passed test_holds | test_each_seat[2A]',
        'passed test_holds | test_each_seat[2B]',
        'errored test_holds | test_needs_the_desk',
      ],
    ],
    [
      'unittest.xml',
      [
        'passed Holds | test_holds_a_seat',
        'failed Holds | test_shows_the_fare',
        'errored Holds | test_breaks',
        'skipped Holds | test_refuses',
      ],
    ],
    [
      'googletest.xml',
      [
        'passed Holds | HoldsASeat',
        'failed Holds | ShowsTheFare',
        'skipped Holds | RefusesATakenSeat',
        'skipped Holds | DISABLED_Later',
        'passed Deck/Seats | Each/0',
        'passed Deck/Seats | Each/1',
      ],
    ],
    [
      'catch2.xml',
      [
        'passed catcht.global | holds a seat',
        'failed catcht.global | shows the fare/in lira',
        'passed catcht.global | shows the fare/in euro',
        'errored catcht.global | the desk breaks',
      ],
    ],
    [
      'prove.xml',
      [
        'passed fare_t | holds a seat',
        'failed fare_t | shows the fare',
        'passed fare_t | 3',
        'passed fare_t | sells a cabin',
        'passed fare_t | each deck',
      ],
    ],
    [
      'perl.tap',
      [
        'passed perl | holds a seat',
        'failed perl | shows the fare',
        'skipped perl | test 3',
        'skipped perl | sells a cabin',
        'passed perl / each deck | deck 1',
        'passed perl / each deck | deck 2',
      ],
    ],
    [
      'prove.tap',
      [
        'passed prove | holds a seat',
        'failed prove | shows the fare',
        'skipped prove | test 3',
        'skipped prove | sells a cabin',
        'passed prove / each deck | deck 1',
        'passed prove / each deck | deck 2',
      ],
    ],
    ['bats.tap', ['passed bats | holds a seat', 'failed bats | shows the fare', 'skipped bats | refuses a taken seat']],
    [
      'bats.xml',
      [
        'passed fare.bats | holds a seat',
        'failed fare.bats | shows the fare',
        'skipped fare.bats | refuses a taken seat',
      ],
    ],
    [
      'ant-junit.xml',
      [
        'failed lodos.HoldTest | showsTheFare',
        'errored lodos.HoldTest | breaks',
        'passed lodos.HoldTest | holdsASeat',
        'skipped lodos.HoldTest | refusesATakenSeat',
      ],
    ],
  ])('%s', (name, expected) => {
    const { cases } = read(name);
    expect(cases.map(line)).toEqual(expected);
    expect(cases.every((one) => one.number === 1)).toBe(true);
    const failure = cases.find((one) => /fare|Fare/.test(one.title) && one.outcome === 'failed')!;
    // What prove wrote of a failure went to its other stream.
    if (name !== 'prove.tap') expect(failure.message).not.toBe('');
  });

  it('tell messages, stacks, times and places', () => {
    const vitest = read('vitest.xml').cases;
    expect(vitest[1]).toMatchObject({
      message: "expected '412 lira' to be '384 lira' // Object.is equality",
      startTold: 'summed',
    });
    expect(vitest[1]!.stack).toContain('holds.test.ts:5:65');
    expect(vitest[0]!.durationMs).toBeCloseTo(2.154, 3);
    expect(vitest[1]!.startedAt! - vitest[0]!.startedAt!).toBeCloseTo(2.154, 3);
    expect(vitest[3]!.output).toContain('asked for the last seat, try');
    const node = read('node.tap').cases;
    expect(node[1]).toMatchObject({ durationMs: 1.701837, file: '/srv/ferry/holds.test.mjs' });
    expect(node[1]!.message).toContain('412 !== 384');
    expect(node[2]).toMatchObject({ outcome: 'skipped', message: 'the desk is closed' });
    const gtest = read('googletest.xml').cases;
    expect(gtest[1]!.stack).toContain('the fare is stale');
    expect(gtest[4]!.properties).toMatchObject({ seat: '2' });
    expect(gtest[3]!.startedAt).toBeGreaterThan(1e12);
    expect(read('perl.tap').cases[1]!.message).toContain("got: '412 lira'");
    expect(read('prove.xml').problems[0]!.message).toContain('Dubious, test returned 1');
    expect(read('pytest.xml').cases[6]!.message).toContain('the desk could not be opened');
    expect(read('unittest.xml').cases[1]).toMatchObject({ file: 'test_unit.py', startTold: 'told' });
  });
});

describe('tries as a runner really wrote them', () => {
  it('a flaky test has its failed try before its pass, one that never passed has all three', () => {
    const { cases } = read('surefire.xml');
    const of = (title: string): unknown[] =>
      cases.filter((one) => one.title === title).map((one) => [one.number, one.outcome, one.message]);
    expect(of('getsTheLastSeatOnTheSecondTry')).toEqual([
      [1, 'failed', 'expected:<[held]> but was:<[free]>'],
      [2, 'passed', ''],
    ]);
    expect(of('neverGetsTheCabin')).toEqual([1, 2, 3].map((number) => [number, 'failed', 'no cabin left']));
    expect(of('holdsASeat')).toEqual([[1, 'passed', '']]);
    expect(cases[0]!.suite).toBe('lodos.RetryTest');
    expect(cases.find((one) => one.number === 1 && one.outcome === 'failed')!.stack).toContain('RetryTest.java:');
  });
});

const junit = (xml: string): { cases: ReportCase[]; problems: Trouble[] } => {
  const cases: ReportCase[] = [];
  const reader = new JunitReader((one) => cases.push(one), { zoneMinutes: 120 });
  reader.write(xml);
  reader.close();
  return { cases, problems: reader.problems };
};

describe('reruns as producers write them', () => {
  it('flaky: the tries that failed come before the one that passed', () => {
    const { cases } = junit(`<testsuite name="s"><testcase name="holds" classname="c" time="1.5">
      <flakyFailure message="first" type="t"><stackTrace>at a</stackTrace><system-out>one</system-out></flakyFailure>
      <flakyError message="second"/><system-out>three</system-out></testcase></testsuite>`);
    expect(cases.map((one) => [one.number, one.outcome, one.message, one.output])).toEqual([
      [1, 'failed', 'first', 'one'],
      [2, 'errored', 'second', ''],
      [3, 'passed', '', 'three'],
    ]);
    expect(cases[0]!.stack).toBe('at a');
  });
  it('rerun: the tries that never passed come after it', () => {
    const { cases } = junit(
      '<testsuite name="s"><testcase name="holds"><failure message="a"/><rerunFailure message="b"/><rerunError message="c"/></testcase></testsuite>',
    );
    expect(cases.map((one) => [one.number, one.outcome, one.message])).toEqual([
      [1, 'failed', 'a'],
      [2, 'failed', 'b'],
      [3, 'errored', 'c'],
    ]);
  });
  it('the same case told again is its next try, in its own suite only', () => {
    const { cases } = junit(
      '<testsuites><testsuite name="a"><testcase name="x"><failure message="m"/></testcase><testcase name="x"/></testsuite><testsuite name="b"><testcase name="x"/></testsuite></testsuites>',
    );
    expect(cases.map((one) => [one.suite, one.number, one.outcome])).toEqual([
      ['a', 1, 'failed'],
      ['a', 2, 'passed'],
      ['b', 1, 'passed'],
    ]);
  });
});

describe('what real reports also do', () => {
  it('nested suites, properties as text, attachments, zones, thousands', () => {
    const { cases } =
      junit(`<testsuites><testsuite name="booking" timestamp="2026-11-23T10:00:00" hostname="h"><properties><property name="browser">firefox</property></properties>
      <testsuite name="holds"><testcase name="x" time="1,234.5"><system-out>saved [[ATTACHMENT|/out/img/a b.png]]
        and see out/video-1.webm</system-out></testcase></testsuite></testsuite></testsuites>`);
    expect(cases[0]).toMatchObject({
      suite: 'booking / holds',
      durationMs: 1_234_500,
      startedAt: Date.UTC(2026, 10, 23, 8),
      host: 'h',
      properties: { browser: 'firefox' },
      attachments: ['/out/img/a b.png', 'out/video-1.webm'],
    });
  });
  it('a file that breaks off gives what came before, and says where', () => {
    const { cases, problems } = junit('<testsuite name="s"><testcase name="a"/><testcase name="b"><failure mess');
    expect(cases.map((one) => one.title)).toEqual(['a']);
    expect(problems.map((one) => one.message).join(' ')).toContain('“b”');
  });
  it('entities are not expanded, documents types are not followed', () => {
    const { cases, problems } = junit(
      '<!DOCTYPE t [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;"><!ENTITY x SYSTEM "file:///etc/passwd">]><testsuite name="s"><testcase name="&b;&x;"/></testsuite>',
    );
    expect(cases.map((one) => one.title).join('')).not.toMatch(/aaaa|root:/);
    expect(problems.length).toBeGreaterThan(0);
  });
  it('elements too deep are passed over, and said so', () => {
    const { problems } = junit(
      `<testsuite name="s">${'<a>'.repeat(5000)}${'</a>'.repeat(5000)}<testcase name="x"/></testsuite>`,
    );
    expect(problems[0]!.message).toContain('deep');
  });
});
