import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { eventually, json, startServerProcess, type ServerProcess } from './helpers.ts';

/** The search for what provokes a failure, in a real browser, over a server that is killed in the middle of it. */

interface Arm {
  words: string;
  n: number;
  same: number;
  phase: string;
  trials: { number: number; verdict: string }[];
}
interface View {
  state: string;
  done: number;
  failed: number;
  problem: string | null;
  under: string;
  findings: {
    stressors: { kind: string; ms?: number }[];
    words: string;
    rate: { point: number };
    dose: { value: number; low: number; high: number; unit: string } | null;
  }[];
  ruledOut: string[];
  search: { ended: string | null; arms: Arm[] } | null;
}

let data: string;
let server: ServerProcess;
let site: FerrySite;
beforeAll(async () => {
  data = mkdtempSync(join(tmpdir(), 'iskel-search-'));
  [server, site] = await Promise.all([startServerProcess({ data }), startFerrySite()]);
});
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(data, { recursive: true, force: true });
});

const view = async (id: string): Promise<View> => (await json<View>('GET', `${server.address}/api/series/${id}`)).body;
const ended = (id: string): Promise<View> =>
  eventually(
    () => view(id),
    ({ state }) => !['waiting', 'running'].includes(state),
    150_000,
  );

/** A drill that passes on a machine of any speed. */
async function steady(): Promise<string> {
  const text = `drill "looks at a sailing"
open "${site.address}/sailings/e-1840"
check answer of script "return 6 * 7" is "42"`;
  return (await json<{ id: string }>('POST', `${server.address}/api/drills`, { text })).body.id;
}

it('goes on by itself after its server was killed, and loses at most the trial under way', async () => {
  const drillId = await steady();
  const begun = await json<{ id: string }>('POST', `${server.address}/api/series`, {
    drillId,
    search: { budget: { trials: 5, minutes: 3 }, allow: ['zone', 'window', 'locale', 'pace'] },
  });
  const { id } = begun.body;
  const before = await eventually(
    () => view(id),
    ({ done }) => done >= 2,
    60_000,
  );
  server.child.kill('SIGKILL');
  await new Promise((done) => server.child.once('exit', done));
  server = await startServerProcess({ data });
  const after = await ended(id);
  expect(after.state).toBe('done');
  const trials = after.search!.arms.flatMap((arm) => arm.trials);
  expect(trials.filter(({ verdict }) => verdict === 'lost').length).toBeLessThanOrEqual(1);
  // What is lost is not counted: all that were asked for came to an end.
  expect(trials.filter(({ verdict }) => verdict !== 'lost')).toHaveLength(5);
  expect(after.done).toBeGreaterThanOrEqual(before.done);
  expect(after.findings).toEqual([]);
  expect(after.ruledOut.join(' ')).toMatch(/without the failure/);
}, 200_000);
