import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { eventually, json, startServerProcess, type ServerProcess } from './helpers.ts';

/** What a trial is put under, in a real browser: each stressor does what it says, and the next trial knows nothing of it. */

let server: ServerProcess;
let site: FerrySite;

beforeAll(async () => {
  server = await startServerProcess();
  site = await startFerrySite();
});
afterAll(async () => {
  await server.stop();
  await site.close();
});

interface View {
  state: string;
  problem: string | null;
  trials: { id: string; state: string; outcome: string; sentence: string | null; durationMs: number }[];
}
interface Tried {
  outcome: string;
  sentence: string | null;
  events: EvidenceEvent[];
  durationMs: number;
}

async function played(lines: string, stressors: object[], engine = 'chromium'): Promise<Tried> {
  const text = `drill "tries"\n${lines}`;
  const made = await json<{ id: string }>('POST', `${server.address}/api/drills`, { text });
  expect(made.status, JSON.stringify(made.body)).toBe(201);
  const begun = await json<{ id: string }>('POST', `${server.address}/api/series`, {
    drillId: made.body.id,
    engine,
    trials: 1,
    stressors,
  });
  expect(begun.status, JSON.stringify(begun.body)).toBe(202);
  const view = await eventually(
    async () => (await json<View>('GET', `${server.address}/api/series/${begun.body.id}`)).body,
    ({ state, trials }) => !['waiting', 'running'].includes(state) && trials.every((one) => one.state === 'ready'),
    60_000,
  );
  const [trial] = view.trials;
  expect(trial, view.problem ?? '').toBeDefined();
  const { body } = await json<{ events: EvidenceEvent[] }>(
    'GET',
    `${server.address}/api/attempts/${trial!.id}/events?limit=10000`,
  );
  return { ...trial!, events: body.events };
}

const fare = (): string => `open "${site.address}/sailings/e-1840"`;

describe('requests', () => {
  it('held back, are answered so much later, and only those', async () => {
    const { outcome, events } = await played(
      `${fare()}\nwait until text of css ".fare" contains "412" up to 4 s every 50 ms`,
      [{ kind: 'hold', request: 'GET /api/fare/*', ms: 700 }],
    );
    expect(outcome).toBe('passed');
    const took = (path: string): number[] =>
      events.flatMap((one) => (one.lane === 'network' && one.data.url.includes(path) ? [one.until! - one.at] : []));
    expect(took('/fare/')[0]).toBeGreaterThan(650);
    expect(Math.max(...took('/client/'))).toBeLessThan(600);
  });
});
