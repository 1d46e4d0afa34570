// What taking a large JUnit report in costs: against parsing the same XML with the same library and inserting the same rows with nothing else.
// Run: npm run bench:intake [cases] [rounds]
import Database from 'better-sqlite3';
import { mkdtempSync, readFileSync, rmSync, openSync, closeSync, readSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { spawnSync } from 'node:child_process';
import { SaxesParser } from 'saxes';
import { median } from '../src/core/stats/median.ts';
import { startServerProcess } from '../tests/helpers.ts';

const cases = Number(process.argv[2]) || 100_000;
const rounds = Number(process.argv[3]) || 3;
const only = process.env.BENCH_ONLY;

/** A report of many suites: one in twenty fails with a stack, one in ten writes something. */
function makeReport(path: string): void {
  const lines: string[] = ['<?xml version="1.0" encoding="UTF-8"?><testsuites name="ferry">'];
  const stack = Array.from(
    { length: 18 },
    (_, i) => `    at step${i} (/srv/ci/ferry/tests/booking/holds.helper${i}.ts:${10 + i}:${3 + i})`,
  ).join('\n');
  for (let i = 0; i < cases; i++) {
    if (i % 100 === 0)
      lines.push(
        `${i ? '</testsuite>' : ''}<testsuite name="booking/holds ${i / 100}" timestamp="2026-11-23T10:00:00" hostname="ci-${i % 7}">`,
      );
    const failure =
      i % 20 === 0
        ? `<failure message="expected 'Seat ${i}' to equal 'Seat ${i + 1}'" type="AssertionError">AssertionError: expected 'Seat ${i}' to equal 'Seat ${i + 1}'\n${stack}</failure>`
        : '';
    const output =
      i % 10 === 0
        ? `<system-out>asked the desk for sailing e-${i}; ${'the answer came in good time and held what was asked for; '.repeat(12)}</system-out>`
        : '';
    lines.push(
      `<testcase classname="booking.holds.Seat${i % 400}" name="holds seat ${i} on the evening sailing to Kuzu Island, asked for by a passenger with a long name and a bicycle in the hold" time="0.${100 + (i % 900)}">${failure}${output}<properties><property name="worker" value="${i % 8}"/><property name="deck" value="the upper deck, starboard side, row ${i % 60}"/></properties></testcase>`,
    );
  }
  lines.push('</testsuite></testsuites>');
  writeFileSync(path, lines.join('\n'));
}

/** The same library over the same text, and the same rows into the same tables, with nothing else. */
function bare(path: string, home: string): number {
  // The rows are those the intake made, read back, so that they are the same.
  const made = new Database(join(home, 'iskel.sqlite'), { readonly: true });
  const tables = ['runs', 'tests', 'families', 'attempts', 'events', 'clues', 'suspects', 'fingerprints'];
  const schema = (
    made
      .prepare(
        "SELECT sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'find_words_%' AND name NOT LIKE 'find_tests_%'",
      )
      .all() as { sql: string }[]
  ).map(({ sql }) => sql);
  const rows = tables.map((table) => ({
    table,
    rows: made.prepare(`SELECT * FROM ${table}`).raw().all() as unknown[][],
  }));
  made.close();
  const folder = mkdtempSync(join(tmpdir(), 'iskel-bare-'));
  const begun = performance.now();
  const parser = new SaxesParser({ xmlns: false, position: true });
  let seen = 0;
  parser.on('opentag', () => seen++);
  parser.on('text', (text) => (seen += text.length ? 1 : 0));
  const fd = openSync(path, 'r');
  const chunk = Buffer.alloc(1024 * 1024);
  const decoder = new TextDecoder();
  for (let got = readSync(fd, chunk); got > 0; got = readSync(fd, chunk))
    parser.write(decoder.decode(chunk.subarray(0, got), { stream: true }));
  parser.close();
  closeSync(fd);
  const db = new Database(join(folder, 'bare.sqlite'));
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  for (const sql of schema) db.exec(sql);
  for (const { table, rows: all } of rows) {
    if (!all.length) continue;
    const insert = db.prepare(`INSERT INTO ${table} VALUES (${all[0]!.map(() => '?').join(', ')})`);
    for (let i = 0; i < all.length; i += 400)
      db.transaction(() => {
        for (const row of all.slice(i, i + 400)) insert.run(...row);
      })();
  }
  db.close();
  const took = performance.now() - begun;
  rmSync(folder, { recursive: true });
  if (!seen) throw new Error('nothing was parsed');
  return took;
}

if (only === 'bare') {
  console.log(bare(process.argv[4]!, process.argv[5]!));
  process.exit(0);
}

const folder = mkdtempSync(join(tmpdir(), 'iskel-bench-'));
const path = join(folder, 'report.xml');
makeReport(path);
const bytes = readFileSync(path);
console.log(`${cases} cases, ${(bytes.length / 1e6).toFixed(1)} MB`);
const results: { took: number; bare: number; ratio: number; memory: number; slowest: number }[] = [];
for (let round = 0; round < rounds; round++) {
  const server = await startServerProcess();
  const memoryOf = (): number =>
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
  // The bare process is timed after its modules are loaded; so is the reading thread, which a first small delivery starts.
  const first = new FormData();
  first.append('files', new Blob(['<testsuite name="warm"><testcase name="up"/></testsuite>']), 'warm.xml');
  await fetch(`${server.address}/api/intake`, { method: 'POST', body: first });
  const idle = memoryOf();
  let peak = idle;
  let slowest = 0;
  let watching = true;
  const watch = (async () => {
    while (watching) {
      const begun = performance.now();
      await (await fetch(`${server.address}/api/runs`)).text();
      slowest = Math.max(slowest, performance.now() - begun);
      peak = Math.max(peak, memoryOf());
      await new Promise((done) => setTimeout(done, 100));
    }
  })();
  const form = new FormData();
  form.append('files', new Blob([bytes]), 'report.xml');
  const begun = performance.now();
  const answer = (await (await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).json()) as {
    attempts: number;
  };
  const took = performance.now() - begun;
  watching = false;
  await watch;
  if (answer.attempts !== cases) throw new Error(`${answer.attempts} attempts came of ${cases} cases`);
  // In a process of its own, as the intake is in a thread of its own.
  const alone = spawnSync(
    process.execPath,
    ['--import', 'tsx', 'benchmarks/intake.ts', String(cases), '1', path, server.data],
    { env: { ...process.env, BENCH_ONLY: 'bare' }, encoding: 'utf8' },
  );
  const plain = Number(alone.stdout.trim());
  if (!plain) throw new Error(alone.stderr);
  await server.stop();
  results.push({ took, bare: plain, ratio: took / plain, memory: peak, slowest });
  console.log(
    `round ${round + 1}: intake ${(took / 1000).toFixed(1)} s, bare ${(plain / 1000).toFixed(1)} s, ratio ${(took / plain).toFixed(2)}; server ${idle.toFixed(0)} MB idle, ${peak.toFixed(0)} MB at most; slowest list meanwhile ${slowest.toFixed(0)} ms`,
  );
}
rmSync(folder, { recursive: true });
const of = (key: keyof (typeof results)[number]): number => median(results.map((one) => one[key]));
console.log(`ratio     median ${of('ratio').toFixed(2)}   goal 2`);
console.log(`memory    median ${of('memory').toFixed(0)} MB  goal 400`);
console.log(`slowest answer to a list while it was read: median ${of('slowest').toFixed(0)} ms`);
process.exit(0);
