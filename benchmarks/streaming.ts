// A million events streamed in by a reporter: events a second, against bare JSON.parse and insert. The server is killed on the way and the
// reporter sends again what was not answered; every event must be there once.
// Run: npm run bench:streaming [events] [rounds]
import Database from 'better-sqlite3';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median } from '../src/core/stats/median.ts';
import { json, startServerProcess } from '../tests/helpers.ts';

const events = Number(process.argv[2]) || 1_000_000;
const rounds = Number(process.argv[3]) || 3;
const perAttempt = 50_000;
const perSend = 10_000;
const start = Date.UTC(2026, 10, 23, 10);

/** What a reporter sends: a step, its request, some console, each with its own id. */
const lineOf = (i: number): string => {
  const [id, at] = [`e${i}`, i * 1.5];
  if (i % 4 === 0)
    return `{"id":"${id}","lane":"step","at":${at},"until":${at + 1.2},"data":{"label":"Press on “Hold seat ${i}”","action":"press","locator":{"using":"css selector","value":"#seat-${i % 900}"}}}`;
  if (i % 4 === 1)
    return `{"id":"${id}","lane":"network","at":${at},"until":${at + 40},"data":{"url":"http://ferry.test/fares/${i % 700}?day=${i % 31}","method":"GET","status":200,"mime":"application/json","size":${800 + (i % 90)}}}`;
  return `{"id":"${id}","lane":"console","at":${at},"data":{"level":"info","text":"seat panel ${i} rendered with ${i % 60} rows in good time for the evening sailing"}}`;
};
const bodies = (attempt: number): string[] =>
  Array.from({ length: perAttempt / perSend }, (_, part) =>
    Array.from({ length: perSend }, (_, i) => lineOf(attempt * perAttempt + part * perSend + i)).join('\n'),
  );
const attempts = events / perAttempt;

function bare(): number {
  const folder = mkdtempSync(join(tmpdir(), 'iskel-bare-'));
  const db = new Database(join(folder, 'bare.sqlite'));
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  db.exec(
    'CREATE TABLE events (attempt_id TEXT, id TEXT, lane TEXT, kind TEXT, at REAL, until REAL, clock TEXT, derived INTEGER, data TEXT, PRIMARY KEY (attempt_id, id)) STRICT, WITHOUT ROWID; CREATE INDEX by_time ON events (attempt_id, at, id)',
  );
  const insert = db.prepare('INSERT OR REPLACE INTO events VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)');
  let took = 0;
  for (let attempt = 0; attempt < attempts; attempt++) {
    const all = bodies(attempt);
    const begun = performance.now();
    for (const body of all) {
      const lines = body.split('\n');
      for (let i = 0; i < lines.length; i += 1000)
        db.transaction(() => {
          for (const line of lines.slice(i, i + 1000)) {
            const event = JSON.parse(line) as { id: string; lane: string; at: number; until?: number; data: object };
            insert.run(
              `a${attempt}`,
              event.id,
              event.lane,
              'x',
              event.at,
              event.until ?? null,
              'reporter',
              0,
              JSON.stringify(event.data),
            );
          }
        })();
    }
    took += performance.now() - begun;
  }
  db.close();
  rmSync(folder, { recursive: true });
  return took;
}

async function streamed(kill: boolean): Promise<number> {
  const data = mkdtempSync(join(tmpdir(), 'iskel-stream-'));
  let server = await startServerProcess({ data });
  let took = 0;
  let resent = 0;
  for (let attempt = 0; attempt < attempts; attempt++) {
    const begin = {
      key: `k${attempt}`,
      run: 'streamed',
      test: { suite: 'bench', title: `attempt ${attempt}` },
      startedAt: start,
    };
    const { id } = (await json<{ id: string }>('POST', `${server.address}/api/attempts`, begin)).body;
    for (const body of bodies(attempt)) {
      if (kill && attempt === Math.floor(attempts / 2) && resent === 0) {
        // Cut down in the middle of a body; what was not answered is sent again to the next server.
        const lost = fetch(`${server.address}/api/attempts/${id}/events`, { method: 'POST', body }).catch(
          () => undefined,
        );
        setTimeout(() => server.child.kill('SIGKILL'), 60);
        await lost;
        await new Promise((done) => setTimeout(done, 200));
        server = await startServerProcess({ data });
        await json('POST', `${server.address}/api/attempts`, begin);
        resent++;
      }
      const begun = performance.now();
      const answer = (await (
        await fetch(`${server.address}/api/attempts/${id}/events`, { method: 'POST', body })
      ).json()) as { taken: number; refused: unknown[] };
      took += performance.now() - begun;
      if (answer.taken !== perSend || answer.refused.length) throw new Error(JSON.stringify(answer).slice(0, 300));
    }
  }
  await server.stop();
  const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
  const { n, ids } = db.prepare('SELECT count(*) AS n, count(DISTINCT id) AS ids FROM events').get() as {
    n: number;
    ids: number;
  };
  db.close();
  rmSync(data, { recursive: true });
  if (n !== events || ids !== events) throw new Error(`${n} events (${ids} different) are there of ${events}`);
  if (kill) console.log(`killed once on the way: all ${n} events are there, each once`);
  return took;
}

const rows: { server: number; bare: number }[] = [];
for (let round = 0; round < rounds; round++) {
  const server = await streamed(round === 0);
  const plain = bare();
  rows.push({ server, bare: plain });
  console.log(
    `round ${round + 1}: ${Math.round(events / (server / 1000))} events/s by reporter, ${Math.round(events / (plain / 1000))} bare, ratio ${(server / plain).toFixed(2)}`,
  );
}
console.log(
  `events a second: median ${Math.round(events / (median(rows.map((row) => row.server)) / 1000))} by reporter, ${Math.round(events / (median(rows.map((row) => row.bare)) / 1000))} bare; ratio median ${median(rows.map((row) => row.server / row.bare)).toFixed(2)}`,
);
process.exit(0);
