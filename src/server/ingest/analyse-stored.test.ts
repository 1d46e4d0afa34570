import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { priorsOf } from '../../core/causes/learning.ts';
import { exchange, line, reads, step, css, windowEvent } from '../../core/evidence/samples.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { Outcome } from '../../core/evidence/attempt.ts';
import { exportPack } from '../exports/packs.ts';
import { Store } from '../store/store.ts';
import { analyseStored, toJudge } from './analyse-stored.ts';
import { fromBytes } from './delivered/source.ts';
import { Intake, newIntakeId } from './delivered/intake.ts';

/** What is delivered is judged as what was recorded: the same attempts, the same words, bit for bit. */

let folder: string;
let here: Store;
let there: Store;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'iskel-judged-'));
  here = new Store(join(folder, 'here'));
  there = new Store(join(folder, 'there'));
});
afterEach(() => {
  here.close();
  there.close();
  rmSync(folder, { recursive: true, force: true });
});

let number = 0;
/** An attempt that opened a sailing and read its fare; where it failed, the fare came late and something threw. */
function evidence(failing: boolean): EvidenceEvent[] {
  return [
    windowEvent(0, 'opened', { context: 'w' }),
    step(10, 120, { action: 'open', command: 'navigate to', input: 'http://ferry.test/sailings/e-1840' }),
    exchange(130, failing ? 900 : 180, { url: 'http://ferry.test/api/fare/e-1840' }),
    step(300, 330, { action: 'press', command: 'element click', locator: css('#hold') }),
    ...(failing ? [line(340, 'holdRef is null', 'error')] : []),
    reads(400, failing ? '…' : '412 TL', '.fare', { command: 'get text' }),
  ].map((event, i) => ({ ...event, id: `e${i}` }));
}

async function attempt(store: Store, outcome: Outcome, startedAt: number, title = 'holds a seat'): Promise<string> {
  const failing = outcome === 'failed';
  const id = store.attempts.begin({
    id: `a-${(++number).toString(16).padStart(12, '0')}`,
    runId: store.runs.named('nightly', 1_000_000),
    test: { suite: 'holds', title },
    number: number,
    environment: { browser: 'chromium', version: '156', width: 1280, height: 800 },
    startedAt,
    labels: {},
  });
  store.events.write(id, evidence(failing));
  store.attempts.outcome(id, outcome, failing ? 'expected "412 TL" but got "…"' : '', '');
  store.attempts.end(id, 500);
  await judge(store, id);
  return id;
}

async function judge(store: Store, id: string): Promise<void> {
  const one = store.attempts.get(id)!;
  const commit = store.runs.get(one.runId)?.commit;
  const priors = priorsOf(store.families.confirmed(), 0);
  const { analysis, words } = await analyseStored(store, toJudge(one, commit, store.rules.get()), priors);
  store.together(() => store.settle(id, analysis, words));
}

it('a delivered pack is judged with passing attempts, neighbours and kin, as the original was', async () => {
  const passed = [await attempt(here, 'passed', 1_000_000), await attempt(here, 'passed', 1_001_000)];
  // Another test ran beside the one that fails.
  passed.push(await attempt(here, 'passed', 1_001_900, 'pays'));
  const failed = [await attempt(here, 'failed', 1_002_000), await attempt(here, 'failed', 1_003_000)];
  const packs = await Promise.all([...failed, ...passed].map((id) => exportPack(here, id)));
  const sources = packs.map((pack, i) => fromBytes(`${i}.iskel.zip`, Buffer.from(pack!)));
  const env = { ...process.env };
  const result = await new Intake(newIntakeId(), { store: there, env, progress: () => {} }).run(sources, {});
  expect(result.problems).toEqual([]);
  expect(result.attempts).toBe(5);
  const run = there.attempts.ofRun(result.runId!);
  for (const id of failed) {
    const original = here.attempts.get(id)!;
    const delivered = run.find((one) => one.startedAt === original.startedAt)!;
    expect(here.attempts.clues(id).length).toBeGreaterThan(1);
    expect(there.attempts.clues(delivered.id)).toEqual(here.attempts.clues(id));
    expect(there.attempts.suspects(delivered.id)).toEqual(here.attempts.suspects(id));
    expect(delivered.failure).toEqual(original.failure);
    expect(delivered.familyId).toBe(original.familyId);
  }
});

it('what a report alone brings is judged by the same rules and with the workspace’s lessons', async () => {
  const xml = `<testsuites><testsuite name="holds" timestamp="2026-05-04T10:00:00"><testcase classname="holds" name="holds a seat" time="1"><failure message="expected &quot;412 TL&quot; but got &quot;…&quot;"/></testcase></testsuite></testsuites>`;
  writeFileSync(join(folder, 'r.xml'), xml);
  const source = fromBytes('r.xml', Buffer.from(xml));
  const { runId } = await new Intake(newIntakeId(), { store: there, env: {}, progress: () => {} }).run([source], {});
  const [one] = there.attempts.ofRun(runId!);
  const before = there.attempts.suspects(one!.id);
  await judge(there, one!.id);
  expect(there.attempts.suspects(one!.id)).toEqual(before);
  expect(before.length).toBeGreaterThan(0);
});
