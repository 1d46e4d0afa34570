// A delivery of 2,000 files and 5 GB through “iskel intake”: what the server holds in memory, how fast lists are meanwhile,
// and that it goes on after its sender and after its server were killed.
// Run: npm run bench:delivery -- [--files 2000] [--gib 5] [--into .iskel/large] [--keep]
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
  readdirSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import sharp from 'sharp';
import type { DeliveryView, IntakeResult } from '../src/core/records.ts';
import { median } from '../src/core/stats/median.ts';
import { seeded } from '../src/core/stats/seeded.ts';
import { json, program, startServerProcess, type ServerProcess } from '../tests/helpers.ts';

const { values } = parseArgs({
  options: {
    files: { type: 'string', default: '2000' },
    gib: { type: 'string', default: '5' },
    into: { type: 'string' },
    keep: { type: 'boolean', default: false },
  },
});
const files = Number(values.files);
const gib = Number(values.gib);
const began = Date.UTC(2026, 10, 23, 9);
const lasts = 20_000;
const every = 24_000;
const tests = Math.round(files / 5);
const draw = seeded(7);

/** Shares of files and of bytes, as runs with videos leave them. */
const kinds = { video: [0.3, 0.6], picture: [0.35, 0.2], har: [0.15, 0.17], log: [0.2, 0.03] } as const;
const countOf = (kind: keyof typeof kinds): number => Math.floor((files - 1) * kinds[kind][0]);
const sizeOf = (kind: keyof typeof kinds): number => Math.floor((gib * 1024 ** 3 * kinds[kind][1]) / countOf(kind));

const stamp = (at: number): string => new Date(at).toISOString().replaceAll(/[-:]/g, '').replace('.', '');
const timeOf = (test: number): number => began + test * every;

function writeAt(path: string, bytes: Buffer | string, at: number): void {
  writeFileSync(path, bytes);
  utimesSync(path, at / 1000, at / 1000);
}

/** A film of about so many bytes, whose picture changes all the time. */
function baseFilm(bytes: number, seed: number): Buffer {
  const rate = Math.round((bytes * 8) / (lasts / 1000));
  const made = spawnSync(
    'ffmpeg',
    ['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=size=640x400:rate=12:duration=${lasts / 1000},noise=alls=${40 + seed}:allf=t`, '-c:v', 'libvpx', '-b:v', String(rate), '-minrate', String(rate), '-deadline', 'realtime', '-cpu-used', '8', '-f', 'webm', '-'],
    { maxBuffer: 512 * 1024 ** 2 },
  ); // prettier-ignore
  if (made.status !== 0) throw new Error(made.stderr.toString());
  return made.stdout;
}
/** The same film with bytes behind it that say nothing, so that no two files are the same. */
const marked = (film: Buffer, mark: number): Buffer => {
  const nothing = Buffer.alloc(10);
  nothing[0] = 0xec;
  nothing[1] = 0x88;
  nothing.writeDoubleBE(mark, 2);
  return Buffer.concat([film, nothing]);
};

async function make(folder: string): Promise<void> {
  for (const part of ['videos', 'shots', 'network', 'logs']) mkdirSync(join(folder, part), { recursive: true });
  const cases = Array.from({ length: tests }, (_, i) => {
    const failed = i % 10 === 0 ? `<failure message="expected ${i} seats to be shown"/>` : '';
    return `<testcase classname="seats" name="shows seats of sailing ${i} to Ada Bay" time="${lasts / 1000}" timestamp="${new Date(timeOf(i)).toISOString()}">${failed}</testcase>`;
  });
  writeAt(join(folder, 'report.xml'), `<testsuite name="seats">${cases.join('\n')}</testsuite>`, timeOf(tests));
  const films = Array.from({ length: 6 }, (_, seed) => baseFilm(sizeOf('video'), seed));
  for (let i = 0; i < countOf('video'); i++) {
    const at = timeOf(i % tests);
    writeAt(join(folder, 'videos', `${stamp(at)}-${i}.webm`), marked(films[i % films.length]!, i), at + lasts);
  }
  const side = Math.max(20, Math.round(Math.sqrt(sizeOf('picture') / 3)));
  for (let i = 0; i < countOf('picture'); i++) {
    const at = timeOf(i % tests) + 2000 + Math.floor(draw() * (lasts - 3000));
    const raw = Buffer.alloc(side * side * 3);
    for (let b = 0; b < raw.length; b += 4) raw.writeUInt32LE((draw() * 2 ** 32) >>> 0, Math.min(b, raw.length - 4));
    const png = await sharp(raw, { raw: { width: side, height: side, channels: 3 } })
      .png({ compressionLevel: 1 })
      .toBuffer();
    writeAt(join(folder, 'shots', `${at}.png`), png, at);
  }
  for (let i = 0; i < countOf('har'); i++) {
    const at = timeOf(i % tests);
    const entries = Array.from({ length: Math.max(1, Math.floor(sizeOf('har') / 1500)) }, (_, n) => ({
      startedDateTime: new Date(at + 500 + (n % 18_000)).toISOString(),
      time: 40,
      request: { method: 'GET', url: `https://shop.lodos.example/api/seats/${i}?page=${n}`, headers: [{ name: 'accept', value: 'application/json' }] },
      response: { status: 200, headers: [], content: { mimeType: 'application/json', text: 'seat '.repeat(200) } },
      timings: { send: 1, wait: 30, receive: 9 },
    })); // prettier-ignore
    writeAt(join(folder, 'network', `${i}.har`), JSON.stringify({ log: { version: '1.2', entries } }), at + lasts);
  }
  for (let i = 0; i < countOf('log'); i++) {
    const at = timeOf(i % tests);
    const lines = Array.from(
      { length: Math.max(1, Math.floor(sizeOf('log') / 100)) },
      (_, n) => `${new Date(at + 300 + (n % 19_000)).toISOString()} INFO desk answered for sailing ${i} after ${n % 90} ms, seats left ${n % 40}`,
    ); // prettier-ignore
    writeAt(join(folder, 'logs', `desk-${i}.log`), lines.join('\n'), at + lasts);
  }
}

/** Memory that a process holds now, MiB. */
const holds = (pid: number): number => {
  const told = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
  return Number(told?.[1] ?? 0) / 1024;
};

const folder = values.into ?? mkdtempSync(join(tmpdir(), 'iskel-large-'));
if (!existsSync(join(folder, 'report.xml'))) {
  const from = Date.now();
  await make(folder);
  console.log(`made in ${((Date.now() - from) / 1000).toFixed(0)} s`);
}
const all = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((one) => one.isFile());
const bytes = all.reduce((sum, one) => sum + statSync(join(one.parentPath, one.name)).size, 0);
console.log(`${all.length} files, ${(bytes / 1024 ** 3).toFixed(2)} GiB`);

const data = mkdtempSync(join(tmpdir(), 'iskel-large-data-'));
const home = mkdtempSync(join(tmpdir(), 'iskel-large-home-'));
let server: ServerProcess = await startServerProcess({ data });
const memory: { at: string; mib: number }[] = [];
const lists: number[] = [];
let phase = 'receiving';
const watching = setInterval(() => {
  try {
    memory.push({ at: phase, mib: holds(server.child.pid!) });
  } catch {
    // It is being started anew.
  }
}, 250);
let asking = true;
const asked = (async () => {
  while (asking) {
    const from = performance.now();
    const answer = await json<{ runs: { id: string }[] }>('GET', `${server.address}/api/runs`).catch(() => undefined);
    const run = answer?.body.runs?.[0];
    if (run) await json('GET', `${server.address}/api/runs/${run.id}/attempts?limit=200`).catch(() => undefined);
    if (answer) lists.push((performance.now() - from) / (run ? 2 : 1));
    await new Promise((done) => setTimeout(done, 300));
  }
})();

const call = (): { child: ChildProcess; ended: Promise<{ code: number | null; told: string }> } => {
  const child = spawn(
    process.execPath,
    [...program('src/cli/main.ts'), '--server', server.address, '--json', 'intake', folder],
    { env: { ...process.env, HOME: home }, stdio: ['ignore', 'pipe', 'inherit'] },
  );
  let told = '';
  child.stdout!.on('data', (chunk: Buffer) => (told += chunk.toString()));
  return { child, ended: new Promise((done) => child.once('exit', (code) => done({ code, told }))) };
};
const view = async (): Promise<DeliveryView | undefined> =>
  (await json<{ deliveries: DeliveryView[] }>('GET', `${server.address}/api/deliveries`)).body.deliveries[0];
const until = async (pleases: (one: DeliveryView) => boolean): Promise<DeliveryView> => {
  for (;;) {
    const one = await view().catch(() => undefined);
    if (one && pleases(one)) return one;
    await new Promise((done) => setTimeout(done, 100));
  }
};

const from = Date.now();
const first = call();
const before = await until(({ sent, size }) => sent > size * 0.35);
first.child.kill('SIGKILL');
await first.ended;
console.log(`the sender was killed when ${Math.round((before.sent / before.size) * 100)} % had come`);
const second = call();
const half = await until(({ sent, size }) => sent > size * 0.7);
const killed = new Promise((done) => server.child.once('exit', done));
server.child.kill('SIGKILL');
await killed;
console.log(`the server was killed when ${Math.round((half.sent / half.size) * 100)} % had come`);
server = await startServerProcess({ data });
second.child.kill('SIGKILL');
await second.ended;
const kept = (await view())!;
console.log(`${Math.round((kept.sent / kept.size) * 100)} % is still there`);
const third = call();
const sent = await until(({ state }) => state !== 'receiving');
console.log(`sent whole after ${((Date.now() - from) / 1000).toFixed(0)} s`);
phase = 'reading';
const ticker = setInterval(() => {
  void view().then((one) => {
    if (one) console.log(`  ${((Date.now() - from) / 1000).toFixed(0)} s: ${one.doing} ${one.done}/${one.of ?? '?'} ${JSON.stringify(one.fates)} ${Math.round(holds(server.child.pid!))} MiB`);
  }, () => undefined); // prettier-ignore
}, 20_000);
const { code, told } = await third.ended;
clearInterval(ticker);
clearInterval(watching);
asking = false;
await asked;
const result = JSON.parse(told) as IntakeResult;
console.log(`ended with ${code} after ${((Date.now() - from) / 1000).toFixed(0)} s; announced ${sent.files} files`);
console.log(
  `${result.attempts} attempts, ${result.attached} of ${all.length - 1} files placed, ${result.unmatched.length} not, ${result.problems.length} problems`,
);
for (const { name, why } of result.unmatched.slice(0, 3)) console.log(`  not placed: ${name}: ${why}`);
for (const one of ['receiving', 'reading'] as const) {
  const own = memory.filter(({ at }) => at === one).map(({ mib }) => mib);
  console.log(`memory while ${one}: median ${Math.round(median(own))} MiB, most ${Math.round(Math.max(...own))} MiB`);
}
lists.sort((a, b) => a - b);
const share = (at: number): string => lists[Math.floor((lists.length - 1) * at)]!.toFixed(1);
console.log(
  `lists meanwhile (${lists.length}): median ${share(0.5)} ms, 95 % under ${share(0.95)} ms, most ${share(1)} ms`,
);
await server.stop();
if (!values.keep && !values.into) rmSync(folder, { recursive: true });
for (const one of [data, home]) rmSync(one, { recursive: true, force: true });
