import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Attempt } from '../../src/core/records.ts';
import type { EvidenceEvent } from '../../src/core/evidence/event.ts';
import { writePack } from '../../src/core/formats/pack.ts';
import { Intake, newIntakeId } from '../../src/server/ingest/delivered/intake.ts';
import { fromBytes } from '../../src/server/ingest/delivered/source.ts';
import { openDesk, type Desk } from './helpers.ts';

/** Attempts that a browser recorded, of which a report tells later what became of them. */

let desk: Desk;
beforeAll(() => (desk = openDesk()));
afterAll(() => desk.close());

const steps: EvidenceEvent[] = [
  {
    id: 'e1',
    lane: 'step',
    kind: 'command',
    at: 5,
    until: 40,
    clock: 'recorder',
    data: { command: 'navigate to', action: 'open', label: 'Open /sailings', input: 'http://lodos.example/sailings' },
  },
];
const pack = (day: number, from: number, ms: number, title = 'http://lodos.example/sailings'): Buffer =>
  Buffer.from(
    writePack({
      attempt: {
        run: { name: `browsers of ${day}`, startedAt: day },
        test: { suite: 'chromium', title },
        outcome: 'unreported',
        environment: { browser: 'chromium', version: '156', width: 1280, height: 800 },
        startedAt: day + from,
        durationMs: ms,
        message: '',
        stack: '',
        labels: { detail: 'light' },
      },
      events: steps,
      blobs: new Map(),
    }),
  );
const report = (day: number, cases: [name: string, from: number | null, ms: number, failed?: string][]): string =>
  `<testsuite name="ferry">${cases
    .map(
      ([name, from, ms, failed]) =>
        `<testcase classname="ferry" name="${name}" time="${ms / 1000}"${from === null ? '' : ` timestamp="${new Date(day + from).toISOString()}"`}>${failed ? `<failure message="${failed}"/>` : ''}<system-out>${name} says so</system-out></testcase>`,
    )
    .join('')}</testsuite>`;
const all = (): Attempt[] => desk.store.runs.newest(1000).flatMap(({ id }) => desk.store.attempts.ofRun(id));
const of = (day: number): Attempt[] =>
  all()
    .filter(({ startedAt }) => Math.abs(startedAt - day) < 3_600_000)
    .sort((a, b) => a.startedAt - b.startedAt);

describe('a report that comes after the recordings', () => {
  const day = Date.UTC(2026, 10, 20, 9);
  const cases: Parameters<typeof report>[1] = [
    ['shows fares', 211, 3000],
    ['holds a seat', 3311, 2500, 'expected held but got free'],
  ];

  it('tells what became of each, in its own run, with what the test wrote', async () => {
    await desk.take({ '1.iskel.zip': pack(day, 400, 2700), '2.iskel.zip': pack(day, 3400, 2300) });
    expect(of(day).map(({ outcome }) => outcome)).toEqual(['unreported', 'unreported']);
    const { problems } = await desk.take({ 'ferry.xml': report(day, cases) });
    expect(problems).toEqual([]);
    const [fares, seat, ...more] = of(day);
    expect(more).toEqual([]);
    // Nothing is left in the run that the browser was recorded in.
    expect(desk.store.runs.newest(1000).map(({ name }) => name)).toEqual([expect.stringMatching(/^ferry · /)]);
    expect(fares).toMatchObject({ outcome: 'passed', source: 'recorded', test: { title: 'shows fares' } });
    expect(seat).toMatchObject({ outcome: 'failed', message: 'expected held but got free' });
    expect(seat!.environment).toMatchObject({ browser: 'chromium', width: 1280 });
    expect(seat!.labels).toMatchObject({ detail: 'light', told: { by: 'ferry.xml', was: { suite: 'chromium' } } });
    expect(seat!.failure).not.toBeNull();
    const lanes = desk.store.events.recorded(seat!.id).map(({ lane }) => lane);
    expect(lanes).toContain('step');
    expect(desk.store.events.recorded(seat!.id).some(({ clock }) => clock === 'report')).toBe(true);
  });

  it('given once more tells nothing new', async () => {
    const before = of(day);
    await desk.take({ 'ferry.xml': report(day, cases) });
    expect(of(day)).toEqual(before);
  });

  it('is corrected by hand: exchanged, and taken away', () => {
    const { told } = desk.store;
    const [fares, seat] = of(day);
    desk.store.together(() => told.exchange(fares!, seat!, 'said by hand'));
    expect(of(day).map(({ outcome, test }) => [outcome, test.title])).toEqual([
      ['failed', 'holds a seat'],
      ['passed', 'shows fares'],
    ]);
    expect(of(day)[0]!.labels.told).toMatchObject({ why: 'said by hand', by: 'ferry.xml' });
    const other = desk.store.together(() => told.release(of(day)[0]!));
    const [free] = of(day).filter(({ id }) => id === fares!.id);
    expect(free).toMatchObject({ outcome: 'unreported', test: { suite: 'chromium' }, labels: { detail: 'light' } });
    expect(free!.labels.told).toBeUndefined();
    expect(desk.store.attempts.get(other)).toMatchObject({
      outcome: 'failed',
      source: 'imported',
      test: { title: 'holds a seat' },
    });
    const wrote = (id: string) => desk.store.events.recorded(id).filter(({ clock }) => clock === 'report').length;
    expect([wrote(fares!.id), wrote(other)]).toEqual([0, 1]);
  });
});

it('recordings that come after the report are told of as well', async () => {
  const day = Date.UTC(2026, 10, 21, 9);
  await desk.take({ 'late.xml': report(day, [['shows fares', 211, 3000]]) });
  await desk.take({ '1.iskel.zip': pack(day, 400, 2700) });
  expect(of(day)).toHaveLength(1);
  expect(of(day)[0]).toMatchObject({ outcome: 'passed', source: 'recorded', test: { title: 'shows fares' } });
  expect(of(day)[0]!.labels.told!.by).toBe('an earlier report');
});

it('those that ran at the same time are left, and it is said how to tell them apart', async () => {
  const day = Date.UTC(2026, 10, 22, 9);
  await desk.take({
    '1.iskel.zip': pack(day, 400, 2700),
    '2.iskel.zip': pack(day, 420, 2700, 'http://lodos.example/b'),
  });
  const { problems } = await desk.take({
    'both.xml': report(day, [
      ['a', 211, 3000],
      ['b', 231, 3000],
    ]),
  });
  expect(problems.map(({ message }) => message)).toEqual([
    expect.stringContaining('2 recorded attempts ran when several tests did'),
  ]);
  expect(of(day).filter(({ outcome }) => outcome === 'unreported')).toHaveLength(2);
});

it('a browser that stayed up for one test after the other is shared out among them', async () => {
  const day = Date.UTC(2026, 10, 24, 9);
  await desk.take({ '1.iskel.zip': pack(day, 200, 9000) });
  const id = newIntakeId();
  const one = report(day, [
    ['shows fares', 211, 4000],
    ['holds a seat', 4311, 4500, 'expected held but got free'],
  ]);
  await new Intake(id, { store: desk.store, env: process.env, progress: () => undefined }).run(
    [fromBytes('turns.xml', Buffer.from(one))],
    {},
  );
  const [whole, fares, seat] = of(day);
  expect(whole).toMatchObject({
    outcome: 'unreported',
    labels: { told: { why: expect.stringContaining('the 2 tests') } },
  });
  expect(fares).toMatchObject({
    source: 'imported',
    outcome: 'passed',
    environment: { browser: 'chromium', width: 1280 },
  });
  expect(seat!.labels.told!.why).toContain(`a part of ${whole!.id}`);
  const steps = (attempt: Attempt) => desk.store.events.recorded(attempt.id).filter(({ lane }) => lane === 'step');
  // Its one step lies before the first test.
  expect([whole!, fares!, seat!].map((attempt) => steps(attempt).length)).toEqual([1, 0, 0]);
  desk.store.intakes.undo(id);
  expect(of(day)).toHaveLength(1);
  expect(of(day)[0]!.labels.told).toBeUndefined();
});

it('a report without times goes by order, and a delivery that is undone puts back what was', async () => {
  const day = Date.UTC(2026, 10, 23, 9);
  await desk.take({ '1.iskel.zip': pack(day, 400, 2700), '2.iskel.zip': pack(day, 4400, 900) });
  const before = of(day);
  const id = newIntakeId();
  await new Intake(id, { store: desk.store, env: process.env, progress: () => undefined }).run(
    [
      fromBytes(
        'order.xml',
        Buffer.from(
          report(day, [
            ['a', null, 2800],
            ['b', null, 1000],
          ]),
        ),
        day + 6000,
      ),
    ],
    {},
  );
  expect(of(day).map(({ test, outcome }) => [test.title, outcome])).toEqual([
    ['a', 'passed'],
    ['b', 'passed'],
  ]);
  desk.store.intakes.undo(id);
  expect(of(day)).toEqual(before);
});
