import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DotnetReader } from './dotnet.ts';
import type { ReportCase, Trouble } from './report.ts';

const folder = new URL('../../../tests/fixtures/reports/', import.meta.url);
/** Read in pieces of a size, as they come from a file. */
function read(text: string, piece = 700): { cases: ReportCase[]; problems: Trouble[] } {
  const cases: ReportCase[] = [];
  const reader = new DotnetReader((one) => cases.push(one));
  for (let at = 0; at < text.length; at += piece) reader.write(text.slice(at, at + piece));
  reader.close();
  return { cases, problems: reader.problems };
}
const fixture = (name: string): string => readFileSync(new URL(name, folder), 'utf8');
const brief = ({ suite, title, outcome }: ReportCase): string => `${suite} › ${title}: ${outcome}`;
const minute = (seconds: number): number => Date.UTC(2026, 10, 23, 6, 0, 0) + seconds * 1000;

// Made by hand from the published schemas; no .NET runs where Iskel is built.
describe('result files of .NET runners', () => {
  it('TRX: classes from the definitions at its end, rows of data each by itself', () => {
    const { cases, problems } = read(fixture('counter.trx'));
    expect(cases.map(brief)).toEqual([
      'Ferry.Counter.TicketTests › Sells a ticket: passed',
      'Ferry.Counter.FareTests › Shows the fare: failed',
      'Ferry.Counter.FareTests › Prices a cabin (2 beds): passed',
      'Ferry.Counter.FareTests › Prices a cabin (4 beds): failed',
      ' › Prints at night: skipped',
      ' › Waits for the tide: errored',
    ]);
    expect(cases[0]).toMatchObject({ durationMs: 1234.5678, startedAt: minute(0.5), startTold: 'told', zone: 180 });
    expect(cases[1]).toMatchObject({
      message: 'Expected fare to be <40 lira>, but found <0 lira>.',
      stack: 'at Ferry.Counter.FareTests.ShowsTheFare() in /src/FareTests.cs:line 31',
      errorOutput: 'the printer is out of paper',
      attachments: ['COUNTER-1/fare.png'],
      host: 'COUNTER-1',
    });
    expect(cases[4]!.message).toBe('the printer sleeps');
    expect(problems).toEqual([]);
  });

  it('NUnit: cases of fixtures, errors told apart from failures, what failed in a fixture’s set-up said', () => {
    const { cases, problems } = read(fixture('counter-nunit.xml'));
    expect(cases.map(brief)).toEqual([
      'Ferry.Counter.FareTests › ShowsTheFare: failed',
      'Ferry.Counter.FareTests › PricesACabin(2,"sea"): passed',
      'Ferry.Counter.FareTests › PricesACabin(4,"land"): passed',
      'Ferry.Counter.FareTests › PrintsAtNight: skipped',
      'Ferry.Counter.FareTests › OpensTheDrawer: errored',
      'Ferry.TideTests › WaitsForTheTide: errored',
    ]);
    expect(cases[0]).toMatchObject({
      message: 'Expected: "40 lira"\n  But was:  "0 lira"',
      durationMs: 4100,
      startedAt: minute(1),
      attachments: ['/src/out/fare.png'],
      properties: { Category: 'fares' },
      output: 'asking for fares\n',
    });
    expect(cases[3]!.message).toBe('the printer sleeps');
    expect(problems).toMatchObject([
      { message: 'the suite “TideTests” tells that its SetUp failed: OneTimeSetUp: no tide table' },
    ]);
  });

  it('xUnit.net: starts added up from the assembly’s, which names no zone', () => {
    const { cases, problems } = read(fixture('counter-xunit.xml'));
    expect(cases.map(brief)).toEqual([
      'Ferry.FareTests › SellsATicket: passed',
      'Ferry.FareTests › Prices(beds: 4): failed',
      'Ferry.FareTests › Prints the pass: failed',
      'Ferry.FareTests › AtNight: skipped',
    ]);
    const nine = Date.UTC(2026, 10, 23, 9);
    expect(cases.map(({ startedAt }) => startedAt! - nine)).toEqual([0, 1500, 4500, 5500]);
    expect(cases[1]).toMatchObject({
      startTold: 'summed',
      zone: null,
      message: 'Assert.Equal() Failure\nExpected: 40\nActual:   0',
      attachments: ['out/cabins.png'],
    });
    expect(cases[0]!.properties).toEqual({ desk: 'two' });
    expect(problems).toMatchObject([{ message: expect.stringContaining('the harbour did not close') as string }]);
  });

  it('are read alike in pieces of any size, and cut off anywhere tell what came before', () => {
    const texts = ['counter.trx', 'counter-nunit.xml', 'counter-xunit.xml'].map(fixture);
    fc.assert(
      fc.property(
        fc.constantFrom(...texts),
        fc.integer({ min: 1, max: 900 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (text, piece, share) => {
          expect(read(text, piece).cases).toEqual(read(text, text.length).cases);
          const cut = read(text.slice(0, Math.floor(text.length * share)), piece);
          expect(cut.cases.length).toBeLessThanOrEqual(read(text).cases.length);
        },
      ),
      { numRuns: 60 },
    );
  });
});
