import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { eventually, json, startServerProcess, type AttemptView, type ServerProcess } from '../helpers.ts';

/** Passing attempts that are delivered later tell more of a failure that was known before: it is judged once more. */

let server: ServerProcess;
const data = mkdtempSync(join(tmpdir(), 'iskel-outgrown-'));
beforeAll(async () => {
  server = await startServerProcess({ data });
});
afterAll(async () => {
  await server.stop();
  rmSync(data, { recursive: true, force: true });
});

const began = Date.parse('2026-11-20T08:00:00Z');
async function delivered(day: number, failed: boolean): Promise<string> {
  const at = (ms: number): string => new Date(began + day * 86_400_000 + ms).toISOString();
  const lines = [`${at(100)} INFO asks the desk for seats`, `${at(400)} ${failed ? 'ERROR no seat' : 'INFO seat 2A'}`];
  const failure = failed ? '<failure message="expected 2A but got none">at seats.ts:4</failure>' : '';
  const form = new FormData();
  form.append('run', `night ${day}`);
  form.append(
    'files',
    new Blob([
      `<testsuite name="seats"><testcase classname="seats" name="gives a seat" timestamp="${at(0)}" time="0.9">${failure}<system-out>${lines.join('\n')}</system-out></testcase></testsuite>`,
    ]),
    'report.xml',
  );
  const answer = await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  const { runId } = (await answer.json()) as { runId: string };
  const { body } = await json<{ attempts: AttemptView[] }>('GET', `${server.address}/api/runs/${runId}/attempts`);
  return body.attempts[0]!.id;
}

it('as it is when they were recorded here', async () => {
  const id = await delivered(0, true);
  const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
  const heldAgainst = (): Promise<number> =>
    Promise.resolve(db.prepare('SELECT baseline FROM attempts WHERE id = ?').pluck().get(id) as number);
  expect(await heldAgainst()).toBe(0);
  for (let day = 1; day <= 3; day++) await delivered(day, false);
  await eventually(heldAgainst, (count) => count === 3, 20_000);
  db.close();
});
