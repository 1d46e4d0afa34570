// How much of what is left beside a report finds its place, and how much of that is right: folders as several habits leave
// them, made up but for how they are written, each taken in by a running server.
// Run: npm run bench:placing -- [--folders 300] [--seed 1] [--only looked|never] [--zones 40] [--verbose]
import { parseArgs } from 'node:util';
import { Buffer } from 'node:buffer';
import sharp from 'sharp';
import tar from 'tar-stream';
import { zipSync } from 'fflate';
import { json, startServerProcess } from '../tests/helpers.ts';
import { leave, lookedAt, neverLookedAt, type Folder, type Left } from './placing/habits.ts';
import { zoneFolder } from './placing/zones.ts';

const { values } = parseArgs({
  options: {
    folders: { type: 'string', default: '300' },
    seed: { type: 'string', default: '1' },
    only: { type: 'string' },
    habit: { type: 'string' },
    zones: { type: 'string', default: '40' },
    verbose: { type: 'boolean', default: false },
  },
});

interface FileView {
  id: string;
  name: string;
  state: string;
  attemptId: string | null;
  score: number;
  reasons: string[];
  candidates: { attemptId: string; score: number }[];
  facts: { zone?: { minutes: number; how: string }; doubt?: { kind: string; words: string } };
}
interface AttemptRow {
  id: string;
  number: number;
  startedAt: number | string;
  test: { title: string };
}

const server = await startServerProcess();
const api = `${server.address}/api`;
let pictures = 0;
/** No two are alike, as no two screens are. */
const picture = (): Promise<Buffer> => {
  const n = ++pictures;
  return sharp({
    create: { width: 64, height: 40, channels: 3, background: { r: n & 255, g: (n >> 8) & 255, b: (n * 37) & 255 } },
  })
    .png()
    .toBuffer();
};

async function packed(
  folder: Folder,
  files: readonly { name: string; bytes: Buffer; written?: number | undefined }[],
): Promise<{ name: string; bytes: Buffer }[]> {
  if (folder.as === 'files') return [...files];
  if (folder.as === 'zip') {
    const offset = new Date().getTimezoneOffset() * 60_000;
    const entries = files.map(({ name, bytes, written }) => {
      const wall = new Date((written ?? folder.world.tries[0]!.until) + folder.world.zone * 60_000 + offset);
      return [name, [new Uint8Array(bytes), { mtime: wall, level: 0 }]] as const;
    });
    return [{ name: 'left.zip', bytes: Buffer.from(zipSync(Object.fromEntries(entries) as never)) }];
  }
  const pack = tar.pack();
  for (const { name, bytes, written } of files)
    pack.entry({ name, size: bytes.length, ...(written === undefined ? {} : { mtime: new Date(written) }) }, bytes);
  pack.finalize();
  const parts: Buffer[] = [];
  for await (const part of pack) parts.push(part as Buffer);
  return [{ name: 'left.tar', bytes: Buffer.concat(parts) }];
}

async function takeIn(run: string, files: readonly { name: string; bytes: Buffer }[]): Promise<string> {
  const form = new FormData();
  form.set('run', run);
  for (const { name, bytes } of files) form.append('files', new Blob([new Uint8Array(bytes)]), name);
  const answer = await fetch(`${api}/intake`, { method: 'POST', body: form });
  const told = (await answer.json()) as { runId?: string; error?: { message: string } };
  if (!told.runId) throw new Error(`${run}: ${told.error?.message ?? answer.status}`);
  return told.runId;
}

const attemptsOf = async (run: string): Promise<AttemptRow[]> =>
  (await json<{ attempts: AttemptRow[] }>('GET', `${api}/runs/${run}/attempts`)).body.attempts;
const filesOf = async (run: string): Promise<FileView[]> =>
  (await json<{ files: FileView[] }>('GET', `${api}/runs/${run}/files`)).body.files;
interface EventView {
  at: number;
  lane: string;
  data: { text?: string; url?: string };
}
async function eventsOf(attempt: string): Promise<EventView[]> {
  const out: EventView[] = [];
  let after = '';
  for (;;) {
    const { body } = await json<{ events: EventView[]; next: string | null }>(
      'GET',
      `${api}/attempts/${attempt}/events?limit=1000${after}`,
    );
    out.push(...body.events);
    if (!body.next) return out;
    after = `&after=${encodeURIComponent(body.next)}`;
  }
}

interface Tally {
  folders: number;
  known: number;
  placed: number;
  placedAtAll: number;
  right: number;
  strays: number;
  straysWaiting: number;
  entries: number;
  entriesRight: number;
}
const fresh = (): Tally => ({
  folders: 0,
  known: 0,
  placed: 0,
  placedAtAll: 0,
  right: 0,
  strays: 0,
  straysWaiting: 0,
  entries: 0,
  entriesRight: 0,
});
/** How sure it was of the best, and whether that was so. */
const told: { score: number; right: boolean }[] = [];
const wrong: string[] = [];

async function measure(folder: Folder, run: string, tally: Tally): Promise<void> {
  const files: { name: string; bytes: Buffer; written?: number | undefined }[] = folder.reports.map(
    ({ name, text }) => ({
      name,
      bytes: Buffer.from(text),
    }),
  );
  for (const { name, bytes, written } of folder.files)
    files.push({ name, bytes: bytes === 'picture' ? await picture() : bytes, written });
  const runId = await takeIn(run, await packed(folder, files));
  const attempts = await attemptsOf(runId);
  const keyOf = new Map(attempts.map((one) => [one.id, `${one.test.title} #${one.number}`]));
  const views = await filesOf(runId);
  tally.folders++;
  for (const left of folder.files) {
    const view = views.find(({ name }) => name === left.name || name.endsWith(`/${left.name}`));
    if (!view) continue;
    if (left.of instanceof Map) await measureShared(left, view, attempts, tally, run);
    else measureOne(left, view, keyOf, tally, run);
  }
}

function measureOne(left: Left, view: FileView, keyOf: Map<string, string>, tally: Tally, run: string): void {
  const placed =
    view.state === 'placed' ? (keyOf.get(view.attemptId!) ?? '?') : view.state === 'spread' ? 'several' : undefined;
  if (left.of === 'nobody') {
    tally.strays++;
    if (placed === undefined) tally.straysWaiting++;
    else wrong.push(`${run}: ${left.name} is nobody’s, placed ${placed}: ${view.reasons.join('; ')}`);
  } else if (left.knowable) {
    tally.known++;
    if (placed !== undefined) tally.placed++;
    else wrong.push(`${run}: ${left.name} of ${String(left.of)} waits: ${view.facts.doubt?.words ?? ''}`);
  }
  if (placed !== undefined) {
    tally.placedAtAll++;
    if (placed === left.of) tally.right++;
    else if (left.of !== 'nobody')
      wrong.push(`${run}: ${left.name} of ${String(left.of)}, placed ${placed}: ${view.reasons.join('; ')}`);
  }
  const best = view.candidates[0];
  if (best) told.push({ score: best.score, right: keyOf.get(best.attemptId) === left.of });
}

async function measureShared(
  left: Left,
  view: FileView,
  attempts: readonly AttemptRow[],
  tally: Tally,
  run: string,
): Promise<void> {
  const truth = left.of as Map<string, string>;
  if (!truth.size) return;
  tally.known++;
  if (view.state === 'spread') tally.placed++;
  else
    wrong.push(
      `${run}: ${left.name} should be shared out, is ${view.state}: ${view.facts.doubt?.words ?? view.reasons.join('; ')}`,
    );
  const found = new Map<string, string[]>();
  for (const one of attempts)
    for (const event of await eventsOf(one.id)) {
      if (event.lane !== 'console' && event.lane !== 'network') continue;
      const mark = /m\d+x/.exec(event.data.text ?? event.data.url ?? '')?.[0];
      if (mark && truth.has(mark)) found.set(mark, [...(found.get(mark) ?? []), `${one.test.title} #${one.number}`]);
    }
  for (const [mark, whose] of truth) {
    if (whose === 'several') continue;
    tally.entries++;
    const has = found.get(mark) ?? [];
    if (whose === 'nobody' ? has.length === 0 : has.includes(whose) && has.every((one) => one === whose))
      tally.entriesRight++;
  }
}

const share = (part: number, of: number): string => (of ? `${((100 * part) / of).toFixed(1)} % of ${of}` : '–');
const groups = [
  { name: 'looked at while building', key: 'looked', habits: lookedAt },
  { name: 'never looked at', key: 'never', habits: neverLookedAt },
].filter(({ key }) => !values.only || key === values.only);
for (const { name, habits } of groups) {
  const all = fresh();
  const each = Math.ceil(Number(values.folders) / 2 / habits.length);
  console.log(name);
  for (const habit of habits) {
    if (values.habit && !habit.name.includes(values.habit)) continue;
    const tally = fresh();
    for (let i = 0; i < each; i++) {
      const seed = Number(values.seed) * 10_000 + i * 31 + habit.name.length;
      await measure(leave(habit, seed), `${habit.name} ${seed}`, tally);
    }
    console.log(
      `  ${habit.name.padEnd(52)} placed ${share(tally.placed, tally.known)}; right ${share(tally.right, tally.placedAtAll)}; nobody’s in the tray ${share(tally.straysWaiting, tally.strays)}; shared entries right ${share(tally.entriesRight, tally.entries)}`,
    );
    for (const key of Object.keys(all) as (keyof Tally)[]) all[key] += tally[key];
  }
  console.log(
    `  ${`all ${all.folders} folders`.padEnd(52)} placed ${share(all.placed, all.known)}; right ${share(all.right, all.placedAtAll)}; nobody’s in the tray ${share(all.straysWaiting, all.strays)}; shared entries right ${share(all.entriesRight, all.entries)}`,
  );
}
console.log('calibration: of the best guesses so likely, so many were right');
for (const [low, high] of [
  [0.01, 0.3],
  [0.3, 0.6],
  [0.6, 0.9],
  [0.9, 0.99],
  [0.99, 1.01],
] as const) {
  const bin = told.filter(({ score }) => score >= low && score < high);
  const mean = bin.reduce((sum, { score }) => sum + score, 0) / Math.max(1, bin.length);
  console.log(`  ${mean.toFixed(3)}: ${share(bin.filter(({ right }) => right).length, bin.length)}`);
}

if (Number(values.zones)) {
  const counts = { right: 0, doubtful: 0, wrong: 0, placed: 0 };
  for (let i = 0; i < Number(values.zones); i++) {
    const { zone, files } = zoneFolder(Number(values.seed) * 1000 + i);
    const runId = await takeIn(`zone ${i}`, files);
    const log = (await filesOf(runId)).find(({ name }) => name.endsWith('.log'))!;
    const found = log.facts.zone;
    if (found?.how === 'found' && found.minutes === zone) counts.right++;
    else if (!found || found.how === 'doubtful') counts.doubtful++;
    else {
      counts.wrong++;
      wrong.push(`zone ${i}: ${zone} read as ${found.minutes}`);
    }
    if (log.state !== 'waiting') counts.placed++;
    else if (values.verbose) wrong.push(`zone ${i}: waits, ${log.facts.doubt?.words}`);
  }
  console.log(
    `zones: ${counts.right} of ${values.zones} right, ${counts.doubtful} told as doubtful, ${counts.wrong} wrong; ${counts.placed} placed`,
  );
}
if (values.verbose) for (const line of wrong) console.log(`    ${line}`);
await server.stop();
process.exit(0);
