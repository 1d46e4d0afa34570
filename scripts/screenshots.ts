// The pictures of docs/screenshots that show the demo as it opens, taken anew. Run: npm run demo, then npm run screenshots.
import { fileURLToPath } from 'node:url';
import { attemptsOfRun, json, openBrowser } from '../tests/helpers.ts';

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
for (const [name, path] of Object.entries(views)) {
  if (only.length && !only.includes(name)) continue;
  await page.goto(address + path);
  await page.locator('h1').first().waitFor();
  // Pictures and charts come in their own time.
  await page.waitForTimeout(1500);
  await page.screenshot({ path: `${into}${name}.png` });
  console.log(name);
}
await browser.close();
