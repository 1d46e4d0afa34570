import { afterEach, beforeEach, expect, it } from 'vitest';
import { eventsOf } from '../../src/core/evidence/event.ts';
import { rezone } from '../../src/server/ingest/delivered/rezone.ts';
import { openDesk, type Desk } from './helpers.ts';

let desk: Desk;
beforeEach(() => (desk = openDesk()));
afterEach(() => desk.close());

const begin = Date.UTC(2026, 10, 23, 9);
/** What a clock on a wall shows, so many minutes east of UTC. */
const wall = (ms: number, zone: number): string =>
  new Date(begin + ms + zone * 60_000).toISOString().replace('T', ' ').replace('Z', '').replace('.', ',');
const log = (zone: number, from = 500, step = 900, count = 8): string =>
  Array.from({ length: count }, (_, i) => `${wall(from + i * step, zone)} INFO counter - line ${i}`).join('\n');
const report = (stamp: (ms: number) => string, tests = 1): string =>
  `<testsuite name="counter">${Array.from(
    { length: tests },
    (_, i) =>
      `<testcase classname="counter" name="sells fare number ${i}" time="9" timestamp="${stamp(i * 9500)}"><failure message="no fare"/></testcase>`,
  ).join('')}</testsuite>`;
const zoned = (zone: string, minutes: number) => (ms: number) =>
  `${wall(ms, minutes).replace(' ', 'T').slice(0, 19)}${zone}`;
const linesOf = (attempt: string): { at: number; text: string }[] =>
  eventsOf(desk.store.events.recorded(attempt), 'console').map(({ at, data }) => ({ at, text: data.text }));

it('reads a log in the zone that brings it to the tests, half-hour zones too', async () => {
  const { runId, unmatched } = await desk.take({ 'report.xml': report(zoned('+05:30', 330)), 'counter.log': log(330) });
  expect(unmatched).toEqual([]);
  const [file] = desk.store.files.ofRun(runId!);
  expect(file).toMatchObject({ state: 'placed', facts: { zone: { minutes: 330, how: 'found' } } });
  expect(linesOf(file!.attemptId!)[0]).toEqual({ at: 500, text: 'line 0' });
});

it('sets a report that names no zone by the files that do', async () => {
  const bare = (ms: number): string => wall(ms, -180).replace(' ', 'T').replace(',', '.');
  const har = JSON.stringify({
    log: {
      entries: [0, 1, 2].map((i) => ({
        startedDateTime: new Date(begin + 1000 + i * 2000).toISOString(),
        time: 5,
        request: { method: 'GET', url: `http://ferry.test/fares/${i}`, headers: [] },
        response: { status: 200, headers: [], content: {} },
      })),
    },
  });
  const { runId, unmatched } = await desk.take({ 'report.xml': report(bare), 'a1.har': har, 'counter.log': log(-180) });
  expect(unmatched).toEqual([]);
  const [attempt] = desk.store.attempts.ofRun(runId!);
  expect(attempt!.startedAt).toBe(begin);
  expect(linesOf(attempt!.id)[0]!.at).toBe(500);
});

it('is set to another zone as a whole, and back; what was placed by hand stays', async () => {
  const { runId } = await desk.take({
    'report.xml': report(zoned('+03:00', 180), 3),
    'server.log': log(180, -500, 500, 60),
    'printer.log': log(180, 300),
  });
  const tools = { store: desk.store, env: process.env, progress: () => undefined };
  const states = (): Record<string, string> =>
    Object.fromEntries(desk.store.files.ofRun(runId!).map(({ name, state }) => [name, state]));
  const attempts = desk.store.attempts.ofRun(runId!);
  const all = (): number => attempts.reduce((sum, { id }) => sum + linesOf(id).length, 0);
  const before = all();
  expect(states()).toEqual({ 'printer.log': 'placed', 'server.log': 'spread' });
  expect(await rezone(tools, 'i-zone', { runId: runId!, minutes: 60 })).toMatchObject({ attached: 0 });
  expect(states()).toEqual({ 'printer.log': 'waiting', 'server.log': 'waiting' });
  expect(all()).toBe(0);
  expect(desk.store.files.ofRun(runId!)[0]!.facts.doubt).toMatchObject({ kind: 'outside' });
  await rezone(tools, 'i-zone', { runId: runId!, minutes: 180 });
  expect(states()).toEqual({ 'printer.log': 'placed', 'server.log': 'spread' });
  expect(all()).toBe(before);
  const [first] = desk.store.files.ofRun(runId!);
  desk.store.files.place(first!.id, { ...first!, placedBy: 'hand' });
  await rezone(tools, 'i-zone', { runId: runId!, minutes: 60 });
  expect(states()).toEqual({ 'printer.log': 'placed', 'server.log': 'waiting' });
});

it('sets names without a zone too, and keeps what is in their files', async () => {
  const { runId } = await desk.take({
    'report.xml': report(zoned('+03:00', 180)),
    'note 2026-11-23 12.00.05.txt': 'the printer is out of paper',
  });
  const tools = { store: desk.store, env: process.env, progress: () => undefined };
  const [attempt] = desk.store.attempts.ofRun(runId!);
  const notes = (): string[] => eventsOf(desk.store.events.recorded(attempt!.id), 'note').map(({ data }) => data.label);
  expect(desk.store.files.ofRun(runId!)[0]).toMatchObject({ state: 'placed', facts: { zone: { minutes: 180 } } });
  expect(notes()).toEqual(['the printer is out of paper']);
  await rezone(tools, 'i-zone', { runId: runId!, minutes: 0 });
  expect(desk.store.files.ofRun(runId!)[0]).toMatchObject({ state: 'waiting', facts: { zone: { minutes: 0 } } });
  expect(notes()).toEqual([]);
  await rezone(tools, 'i-zone', { runId: runId!, minutes: 180 });
  expect(notes()).toEqual(['the printer is out of paper']);
});

it('sets a clock right that is wrong by seconds, by the requests that another file saw', async () => {
  const har = JSON.stringify({
    log: {
      entries: [0, 1, 2, 3].map((i) => ({
        startedDateTime: new Date(begin + 1000 + i * 1700).toISOString(),
        time: 5,
        request: { method: 'GET', url: `http://ferry.test/fares/${i}`, headers: [] },
        response: { status: 200, headers: [], content: {} },
      })),
    },
  });
  const late = [0, 1, 2, 3].map(
    (i) => `${new Date(begin + 43_000 + 1000 + i * 1700).toISOString()} GET /fares/${i} 200`,
  );
  const { runId } = await desk.take({
    'report.xml': report(zoned('Z', 0)),
    'a1.har': har,
    'gate.log': late.join('\n'),
  });
  const file = desk.store.files.ofRun(runId!).find(({ name }) => name === 'gate.log')!;
  expect(file).toMatchObject({ state: 'placed', facts: { skew: { ms: -43_000 } } });
  expect(linesOf(file.attemptId!)[0]!.at).toBe(1000);
});
