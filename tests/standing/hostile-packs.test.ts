import { spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { json, openBrowser, openScreen, sleep, startServerProcess, type ServerProcess } from '../helpers.ts';
import { hostileDelivery } from './hostile-packs.ts';

/** Generated deliveries of harm: memory stays bounded, the server goes on answering, and every screen opens afterwards. */
const count = Number(process.env.ISKEL_PACKS ?? 14);
const seed = Number(process.env.ISKEL_SEED ?? 1);
let server: ServerProcess;
let browser: Browser;

beforeAll(async () => {
  [server, browser] = await Promise.all([startServerProcess(), openBrowser()]);
}, 60_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** Memory of the server and what it started, without browsers, MiB. */
function memory(): number {
  const parents = new Map<number, number>();
  const rss = new Map<number, number>();
  for (const name of readdirSync('/proc').filter((one) => /^\d+$/.test(one)))
    try {
      const status = readFileSync(`/proc/${name}/status`, 'latin1');
      if (/^Name:\s+(?:chrom|firefox|WebKit|Xvfb)/m.test(status)) continue;
      parents.set(Number(name), Number(/^PPid:\s+(\d+)/m.exec(status)?.[1]));
      rss.set(Number(name), Number(/^VmRSS:\s+(\d+)/m.exec(status)?.[1] ?? 0) / 1024);
    } catch {
      // it ended meanwhile
    }
  const below = (pid: number): number =>
    (rss.get(pid) ?? 0) +
    [...parents].filter(([, parent]) => parent === pid).reduce((sum, [one]) => sum + below(one), 0);
  return below(server.child.pid!);
}

/**
 * Asks an address again and again from a process of its own: this one is busy making what it delivers.
 * @returns ends it, and tells how long each answer took, ms
 */
function askedBeside(address: string): () => Promise<number[]> {
  const source = `(async () => { for (;;) { const began = performance.now(); await fetch(process.argv[1]).then((a) => a.text());
    console.log(performance.now() - began); await new Promise((done) => setTimeout(done, 60)); } })()`;
  const child = spawn(process.execPath, ['-e', source, address], { stdio: ['ignore', 'pipe', 'inherit'] });
  let told = '';
  child.stdout.on('data', (chunk: Buffer) => (told += chunk.toString()));
  return () =>
    new Promise((done) => {
      child.once('exit', () => done(told.split('\n').filter(Boolean).map(Number)));
      child.kill('SIGTERM');
    });
}

it('memory stays bounded, nothing fails that nobody caught, and every screen opens afterwards', async () => {
  const before = memory();
  let most = before;
  let over = false;
  const asking = askedBeside(`${server.address}/api/health`);
  const watch = (async () => {
    while (!over) {
      most = Math.max(most, memory());
      await sleep(60);
    }
  })();
  for (let i = 0; i < count; i++) {
    const { name, files } = hostileDelivery(seed * 1000 + i);
    const form = new FormData();
    form.append('run', `p${seed * 1000 + i}`);
    for (const [path, bytes] of Object.entries(files)) form.append('files', new Blob([bytes as Uint8Array<ArrayBuffer>]), path); // prettier-ignore
    const answer = await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
    expect(answer.status, name).toBeLessThan(500);
    await answer.text();
  }
  await sleep(1500);
  over = true;
  await watch;
  const waits = (await asking()).sort((a, b) => a - b);
  expect(waits.length).toBeGreaterThan(5);
  if (count > 100)
    console.log(
      `${count} deliveries: memory at most ${Math.round(most - before)} MiB above the start; health at most ${Math.round(waits.at(-1)!)} ms, 99 of 100 under ${Math.round(waits[Math.floor(waits.length * 0.99)]!)} ms`,
    );
  expect(most - before).toBeLessThan(1024);
  const calls = ['/api/runs?limit=500', '/api/history', '/api/families', '/api/outlook', '/api/find?words=x', '/api/readiness', '/api/keeping', '/api/drills']; // prettier-ignore
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${server.address}/api/runs?limit=500`);
  const attempts: string[] = [];
  for (const { id } of body.runs) {
    for (const of of ['', '/sheet', '/attempts', '/junit', '/table', '/console', '/files']) calls.push(`/api/runs/${id}${of}`); // prettier-ignore
    const told = await json<{ attempts: { id: string }[] }>('GET', `${server.address}/api/runs/${id}/attempts`);
    attempts.push(...told.body.attempts.slice(0, 3).map((one) => one.id));
  }
  for (const id of attempts)
    for (const of of [
      '',
      '/outline',
      '/stretch?from=0&until=100',
      '/suspects',
      '/clues',
      '/har',
      '/console',
      '/steps',
      '/pack',
      '/hand-over',
      '/advice',
      '/told',
      '/events',
      '/risks',
      '/files',
    ])
      // prettier-ignore
      calls.push(`/api/attempts/${id}${of}`);
  const bad: string[] = [];
  for (const call of calls) {
    const answer = await fetch(server.address + call);
    await answer.arrayBuffer();
    if (answer.status >= 500) bad.push(`${answer.status} ${call}`);
  }
  expect(bad).toEqual([]);
  expect((await json<{ faults: number }>('GET', `${server.address}/api/health`)).body.faults).toBe(0);
  expect(body.runs.length).toBeGreaterThan(2);
  const { page, errors } = await watched(browser);
  for (const path of [
    '/',
    '/dossiers',
    '/trends',
    '/find?words=x',
    '/outlook',
    '/rules',
    '/drills',
    ...body.runs.slice(0, 5).map(({ id }) => `/runs/${id}`),
    ...attempts.slice(0, 12).map((id) => `/attempts/${id}`),
  ]) {
    // prettier-ignore
    await page.goto(server.address + path, { waitUntil: 'networkidle' });
    expect((await page.locator('body').innerText()).length, path).toBeGreaterThan(20);
  }
  expect(errors).toEqual([]);
}, 1_800_000);

async function watched(by: Browser): Promise<{ page: Awaited<ReturnType<typeof openScreen>>; errors: string[] }> {
  const page = await openScreen(by);
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(`${page.url()}: ${error.message}`));
  page.on('dialog', (dialog) => {
    errors.push(`${page.url()}: a dialog said ${dialog.message()}`);
    void dialog.dismiss();
  });
  return { page, errors };
}
