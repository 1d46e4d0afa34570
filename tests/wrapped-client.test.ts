import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { chromium, type Browser, type BrowserType } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readyIn } from '../src/browser/devtools/spool.ts';
import type { StepEvent } from '../src/core/evidence/event.ts';
import { overPort, standIn } from './devtools-client.ts';
import { eventually, sleep } from './helpers.ts';

/**
 * A client with layers of its own, which calls one function for everything: its steps are those of the test, over the pipe,
 * over the port, and under other names than it has.
 */

const root = join(import.meta.dirname, '..');
let folder: string;
let site: Server;
let address: string;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'iskel-wrapped-'));
  site = createServer((_request, response) => {
    response.setHeader('content-type', 'text/html; charset=utf-8');
    response.end(`<title>Fares</title><button id=pay onclick="setTimeout(() => { out.textContent = 'Paid'; out.className = 'done' }, 400)">Pay</button>
      <input id=name><select id=deck><option>Upper<option>Lower</select><ul><li class=row>Kuzu<li class=row>Ada</ul><p id=out>Open</p>`);
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
  address = `http://127.0.0.1:${(site.address() as { port: number }).port}/fares`;
});
afterAll(() => {
  site.close();
  site.closeAllConnections();
  rmSync(folder, { recursive: true, force: true });
});

/** The same client with other names inside, as another version or another maker would have them. */
async function renamed(): Promise<BrowserType> {
  const copy = join(folder, 'client');
  cpSync(join(root, 'node_modules', 'playwright-core'), copy, { recursive: true });
  symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
  let changed = 0;
  for (const one of readdirSync(join(copy, 'lib'), { recursive: true, withFileTypes: true })) {
    if (!one.isFile() || !one.name.endsWith('.js')) continue;
    const path = join(one.parentPath, one.name);
    const source = readFileSync(path, 'utf8');
    const other = source
      .replaceAll('utilityScript', 'shipHelper')
      .replaceAll('UtilityScript', 'ShipHelper')
      .replaceAll('injectedScript', 'deckTools')
      .replaceAll('InjectedScript', 'DeckTools')
      .replaceAll('--playwright--no--result--value--', 'not-there-yet');
    if (other === source) continue;
    changed++;
    writeFileSync(path, other);
  }
  expect(changed).toBeGreaterThan(0);
  const { chromium: own } = (await import(pathToFileURL(join(copy, 'index.mjs')).href)) as { chromium: BrowserType };
  return own;
}

async function plays(browser: Browser): Promise<void> {
  const context = browser.contexts()[0] ?? (await browser.newContext());
  const page = await context.newPage();
  await page.goto(address);
  await page.locator('#name').fill('Ece');
  await page.locator('#deck').selectOption('Lower');
  expect(await page.locator('.row').count()).toBe(2);
  await page.getByRole('button', { name: 'Pay' }).click();
  await page.locator('#out.done').waitFor();
  expect(await page.locator('#out').innerText()).toBe('Paid');
  expect(await page.evaluate(() => document.title)).toBe('Fares');
  await page
    .locator('#none')
    .click({ timeout: 300 })
    .catch(() => undefined);
  await sleep(300);
  await page.close();
}

const usual = ['--no-sandbox', '--disable-gpu'];
const env = (spool: string): Record<string, string> => ({
  ...(process.env as Record<string, string>),
  ISKEL_URL: 'http://127.0.0.1:1',
  ISKEL_SPOOL: spool,
  ISKEL_DELIVER: 'later',
});

it.each(['over the pipe', 'over the port', 'under other names'])(
  '%s its steps are those of the test',
  async (way) => {
    const spool = join(folder, way.replaceAll(' ', '-'));
    if (way === 'over the port') {
      const started = await overPort(env(spool));
      const browser = await chromium.connectOverCDP(started.address);
      await plays(browser);
      await started.close();
    } else {
      const client = way === 'over the pipe' ? chromium : await renamed();
      const browser = await client.launch({ executablePath: standIn, args: usual, env: env(spool) });
      await plays(browser);
      await browser.close();
    }
    const [ready] = await eventually(
      () => Promise.resolve(readyIn(spool)),
      (list) => list.length === 1,
    );
    const steps = [...ready!.events()]
      .filter((one): one is StepEvent => one.lane === 'step')
      .sort((a, b) => a.at - b.at)
      .map(({ data }) => `${data.label}${data.error ? ` (${data.error.code})` : ''}`);
    // Looks that are repeated are told once; how often they were is another matter.
    const told = steps.filter((one, i) => one !== steps[i - 1] && !one.startsWith('Set the window'));
    expect(told).toEqual([
      'Open /fares',
      'Find “#name”',
      'Type “Ece” in “#name”',
      'Find “#deck”',
      'Type “Lower” in “#deck”',
      'Find “.row”',
      'Find “button#pay”',
      'Press on “button#pay”',
      'Find “#out.done” (no such element)',
      'Find “#out.done”',
      'Find “#out”',
      'Read text of “#out”',
      'Run “() => document.title”',
      'Find “#none” (no such element)',
    ]);
  },
  120_000,
);
