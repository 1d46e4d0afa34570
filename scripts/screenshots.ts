// The pictures of docs/screenshots, taken anew: of the demo as it opens, then of what is played in it, which takes minutes.
// Run: npm run demo, then npm run screenshots [-- ADDRESS NAME…].
import { fileURLToPath } from 'node:url';
import { attemptsOfRun, eventually, json, openBrowser } from '../tests/helpers.ts';

const address = process.argv[2] ?? 'http://127.0.0.1:4870';
const into = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));

const night = await attemptsOfRun(address, (name) => name === 'nightly-184');
const evening = await attemptsOfRun(address, (name) => name === 'evening-12');
const held = night.find(
  ({ outcome, test }) => outcome === 'failed' && test.title === 'holds a seat on the evening sailing',
)!;
const imported = evening.find(({ outcome }) => outcome === 'failed')!;
const { body: runs } = await json<{ runs: { id: string; name: string }[] }>('GET', `${address}/api/runs`);
const runOf = (name: string): string => runs.runs.find((one) => one.name === name)!.id;

/** By name of the picture: what is looked at. */
const views: Record<string, string> = {
  arrivals: '/',
  'run-sheet': `/runs/${runOf('nightly-184')}`,
  tray: `/runs/${runOf('evening-12')}?tray=open`,
  find: '/find?words=seat',
  bench: `/attempts/${held.id}`,
  'bench-imported': `/attempts/${imported.id}`,
  'bench-network': `/attempts/${held.id}?side=network`,
  'bench-why': `/attempts/${held.id}?side=why`,
  contrast: `/contrast?failing=${held.id}`,
  dossier: `/dossiers/${held.familyId}`,
  trends: '/trends',
  next: '/next',
  rules: '/rules',
  'hand-over': `/attempts/${held.id}/hand-over`,
  places: '/places',
};
const only = process.argv.slice(3);
const browser = await openBrowser();
const page = await browser.newPage({
  viewport: { width: 1280, height: 800 },
  colorScheme: 'light',
  reducedMotion: 'reduce',
});
const wanted = (...names: string[]): boolean => only.length === 0 || names.some((name) => only.includes(name));

async function picture(name: string, path: string): Promise<void> {
  await page.goto(address + path);
  await page.locator('h1').first().waitFor();
  // Pictures and charts come in their own time.
  await page.waitForTimeout(1500);
  await page.screenshot({ path: `${into}${name}.png` });
  console.log(name);
}
/** What was started by an order, once it has come so far. */
async function played<T>(path: string, order: object, far: (body: T) => boolean): Promise<{ id: string; body: T }> {
  const { body: made } = await json<{ id: string }>('POST', `${address}/api${path}`, order);
  const at = `${address}/api${path}/${made.id}`;
  const body = await eventually(async () => (await json<T>('GET', at)).body, far, 900_000);
  return { id: made.id, body };
}

for (const [name, path] of Object.entries(views)) if (wanted(name)) await picture(name, path);

interface Played {
  state: string;
  times: unknown[];
  search: { id: string; drillId: string };
}
const over = ({ state }: Played): boolean => state !== 'running' && state !== 'waiting';
if (wanted('mending', 'provoke', 'series')) {
  const { id, body } = await played<Played>('/mendings', { attemptId: held.id }, over);
  await picture('mending', `/mendings/${id}`);
  const { drillId } = body.search;
  await picture('provoke', `/drills/${drillId}?series=${body.search.id}`);
  const series = await played<Played>('/series', { drillId, trials: 20, engine: 'chromium' }, over);
  await picture('series', `/drills/${drillId}?series=${series.id}`);
}
if (wanted('again')) {
  const { body } = await json<{ commands: { name: string }[] }>('GET', `${address}/api/commands`);
  const tests = night.filter(({ outcome }) => outcome === 'failed').map(({ test }) => test.id);
  const order = { tests: [...new Set(tests)].slice(0, 3), by: body.commands[0]!.name, times: 4 };
  const { id } = await played<Played>('/again', order, (one) => over(one) || one.times.length >= 2);
  await picture('again', `/again/${id}`);
}
await browser.close();
