import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, openScreen, startServerProcess, type ServerProcess } from '../helpers.ts';

/** What another runner left behind, brought in through the real interface. */
let server: ServerProcess;
let browser: Browser;
let page: Page;
let left: string;
const troubles: string[] = [];
beforeAll(async () => {
  server = await startServerProcess();
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
  left = mkdtempSync(join(tmpdir(), 'iskel-left-'));
  spawnSync('tar', ['-xzf', 'demo/left/ferry-evening.tar.gz', '-C', left]);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
  rmSync(left, { recursive: true, force: true });
});

/** Drops files on the page as a person does. */
const drop = (files: Record<string, string>): Promise<void> =>
  page.evaluate((given) => {
    const transfer = new DataTransfer();
    for (const [name, text] of Object.entries(given)) transfer.items.add(new File([text], name));
    const on = document.querySelector('.frame')!;
    for (const type of ['dragenter', 'dragover', 'drop'])
      on.dispatchEvent(new DragEvent(type, { dataTransfer: transfer, bubbles: true, cancelable: true }));
  }, files);

describe('Arrivals', () => {
  it('empty, shows the ways in', async () => {
    await page.goto(server.address);
    await page.getByText('No run has arrived yet').waitFor();
    expect(await page.locator('.way').count()).toBe(5);
    // First the one path to set, as it is on the server's machine.
    await page.locator('.way pre').first().filter({ hasText: 'bin/iskel-browser.mjs' }).waitFor();
    expect(await page.locator('.way pre').nth(1).innerText()).toBe(`${server.address}/wd`);
    expect(await page.locator('.way pre').nth(2).innerText()).toContain('/api/intake');
  });

  it('takes a report dropped on it, and stays usable', async () => {
    await drop({
      'first.xml': '<testsuite name="s" timestamp="2026-11-20T10:00:00"><testcase name="a" time="1"/></testsuite>',
    });
    await page.locator('.delivery.ended').waitFor();
    expect(await page.locator('.delivery').innerText()).toContain('1 attempt');
    await page.locator('article h2').waitFor();
  });

  it('a folder left by a test run becomes a run: every file is placed, or listed with why not', async () => {
    await page.locator('input[webkitdirectory]').setInputFiles(join(left, 'ferry-evening'));
    await page.locator('.delivery.ended', { hasText: 'ferry-evening' }).waitFor({ timeout: 60_000 });
    const text = await page.locator('.delivery', { hasText: 'ferry-evening' }).innerText();
    expect(text).toContain('16 attempts, 37 files placed, 2 not placed');
    expect(text).toMatch(/core\.4711\s+it is of no kind we read/);
    expect(text).toMatch(
      /warm-up\.webm\s+its times are outside every attempt of this run: 60 minutes before the nearest/,
    );
    await page.getByRole('link', { name: 'open the run' }).first().click();
    await page.locator('table').waitFor();
    expect(await page.locator('h1').first().innerText()).toBe('3 failures in 3 families');
    expect(await page.locator('thead th').allInnerTexts()).toEqual([
      'test',
      'chromium 1280×800',
      'chromium 1024×768',
      'longest',
    ]);
  });
});

describe('the tray', () => {
  it('opens by key, says why, and a file is dragged onto a cell and taken back', async () => {
    await page.keyboard.press('t');
    await page.locator('.tray').getByText('1 file could not be placed').waitFor();
    await page.waitForURL(/tray=open/);
    await page.locator('.tray li', { hasText: 'warm-up.webm' }).dragTo(page.locator('td.cell').nth(3));
    await page.locator('.tray').getByText('Every file is placed').waitFor();
    await page
      .locator('.tray')
      .getByRole('button', { name: /^all \d+/ })
      .click();
    const row = page.locator('.tray li', { hasText: 'warm-up.webm' });
    expect(await row.innerText()).toContain('placed by hand');
    await row.getByRole('button', { name: 'Take back' }).click();
    await page.locator('.tray').getByText('1 file could not be placed').waitFor();
  });
  it('also places by keyboard, in the chosen cell', async () => {
    const row = page.locator('.tray li', { hasText: 'warm-up.webm' });
    await row.getByRole('button', { name: /^To the chosen cell/ }).focus();
    await page.keyboard.press('Enter');
    await page.locator('.tray').getByText('Every file is placed').waitFor();
    await row.getByRole('button', { name: 'Take back' }).press('Enter');
    await page.locator('.tray').getByText('1 file could not be placed').waitFor();
    await page.keyboard.press('t');
  });
});

describe('the run sheet', () => {
  it('narrows by environment and family, in the address', async () => {
    await page.locator('#family').selectOption({ index: 1 });
    await page.waitForURL(/family=f-/);
    expect(await page.locator('tbody tr').count()).toBe(1);
    await page.reload();
    await page.locator('table').waitFor();
    expect(await page.locator('tbody tr').count()).toBe(1);
    await page.locator('#family').selectOption('');
    await page.locator('#environment').selectOption('chromium 1024×768');
    await page.getByRole('button', { name: 'failed', exact: true }).click();
    await page.getByText('No test fits this filter.').waitFor();
    await page.getByRole('button', { name: /^Show all/ }).click();
  });
  it('shows who ran before and beside whom', async () => {
    await page.getByRole('button', { name: 'order and neighbours' }).click();
    await page.locator('.run-bar.failed').first().click();
    const words = await page.locator('.look').innerText();
    expect(words).toContain('On the same worker before it');
    expect(await page.locator('.run-bar').count()).toBe(16);
  });
  it('compares environments with an exact test', async () => {
    await page.getByRole('button', { name: 'environments compared' }).click();
    await page.getByText('3 of 8').first().waitFor();
    expect(await page.locator('.places').innerText()).toMatch(/p 0\.200, could be chance/);
    await page.getByRole('button', { name: 'tests by environment' }).click();
  });
  it('holds twenty thousand rows, of which only those in sight are in the page', async () => {
    const cases = Array.from(
      { length: 20_000 },
      (_, i) =>
        `<testcase classname="deck ${i % 50}" name="seat ${i}" time="0.01">${i % 5000 ? '' : '<failure message="taken"/>'}</testcase>`,
    ).join('');
    await drop({ 'large.xml': `<testsuite name="large" timestamp="2026-11-21T10:00:00">${cases}</testsuite>` });
    // Dropped on a run's own sheet, it goes into that run.
    await page.locator('.delivery.ended', { hasText: 'large.xml' }).waitFor({ timeout: 60_000 });
    await page.getByText('20008 tests').first().waitFor({ timeout: 20_000 });
    expect(await page.locator('tbody tr').count()).toBeLessThan(60);
    await page.evaluate(() => (document.querySelector('main')!.scrollTop = 400_000));
    await page.waitForFunction(() =>
      /seat \d+/.test(document.querySelector('tbody tr:nth-child(12)')?.textContent ?? ''),
    );
    const frames = await page.evaluate(async () => {
      const main = document.querySelector('main')!;
      const times: number[] = [];
      let last = performance.now();
      for (let i = 0; i < 60; i++) {
        main.scrollTop += 90;
        await new Promise((done) => requestAnimationFrame(done));
        times.push(performance.now() - last);
        last = performance.now();
      }
      return times.sort((a, b) => a - b)[30]!;
    });
    console.log(`scrolling 20,000 rows: half of the frames within ${frames.toFixed(1)} ms`);
    await page.keyboard.press('PageDown');
    await page.locator('tr.chosen').waitFor();
  }, 120_000);
});

describe('an imported attempt on the bench', () => {
  it('shows the video at the level, its clock, and what nobody recorded', async () => {
    await page.locator('#words').fill('holds a seat on the evening');
    await page.locator('td.cell a').first().click();
    await page.getByRole('slider').waitFor();
    await page.goto(`${page.url().split('?')[0]}?at=1300`);
    // A screenshot may be nearer than the video's frame is.
    await page.getByRole('checkbox', { name: 'the video' }).check();
    await page.locator('video').waitFor();
    await page.waitForFunction(
      () =>
        Math.abs((document.querySelector('video')?.currentTime ?? 0) - 0.92) < 0.5 &&
        document.querySelector('video')!.readyState >= 2,
    );
    const sources = page.getByRole('region', { name: 'Sources and their clocks' });
    expect(await sources.innerText()).toMatch(
      /video .*\n.*± \d+ ms, (?:by the time written in it|by when its file was written|roughly, by)/,
    );
    expect(await sources.innerText()).toContain('no steps: its report tells none');
    const group = sources.getByRole('group', { name: /webm/ });
    const before = await sources.locator('li', { hasText: 'video' }).innerText();
    await group.getByRole('button', { name: '100 ms later', exact: true }).click();
    await page.waitForFunction(
      (old) => ![...document.querySelectorAll('.sources li')].some((li) => (li as HTMLElement).innerText === old),
      before,
    );
    expect(await sources.locator('li', { hasText: 'video' }).innerText()).toContain('set by hand');
  });
});

describe('find', () => {
  it('groups what it finds, each opening its moment', async () => {
    await page.locator('#find').fill('desk 7');
    await page.locator('#find').fill('Kuzu Island');
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/find\?words=Kuzu/);
    await page.locator('.found').waitFor();
    expect(await page.locator('.found h2').allInnerTexts()).toEqual(
      expect.arrayContaining([
        'Failures',
        expect.stringContaining('Console lines') as string,
        expect.stringContaining('Requests') as string,
      ]),
    );
    await page.locator('section', { hasText: 'Console lines' }).locator('a').first().click();
    await page.waitForURL(/\/attempts\/a-[^?]*\?.*at=\d/);
  });
  it('says so when there is nothing', async () => {
    await page.goto(`${server.address}/find?words=zeppelin`);
    await page.getByText('“zeppelin” is nowhere').waitFor();
  });
});

it('markup in every field is text on every screen', async () => {
  const evil = '<img src=x onerror="window.caught=1"><script>window.caught=1</script>"\'><svg onload=window.caught=1>';
  const text = evil.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');
  const folder = mkdtempSync(join(tmpdir(), 'iskel-evil-'));
  writeFileSync(
    join(folder, 'r.xml'),
    `<testsuite name="${text}" timestamp="2026-11-22T10:00:00" hostname="${text}"><properties><property name="browser" value="${text}"/><property name="tags" value="${text}"/></properties><testcase name="${text}" classname="${text}" time="1" file="${text}"><failure message="${text}">at ${text} (a.ts:1:1)</failure><system-out>2026-11-22T10:00:00Z ERROR ${text}\n2026-11-22T10:00:00Z INFO b</system-out></testcase></testsuite>`,
  );
  writeFileSync(
    join(folder, 'page.html'),
    `<html><body>${evil}<script>fetch('/api/runs',{method:'DELETE'})</script></body></html>`,
  );
  cpSync(join(folder, 'page.html'), join(folder, '&lt;b&gt;onclick=1.html'));
  const form = new FormData();
  form.append('run', evil);
  const { openAsBlob, readdirSync } = await import('node:fs');
  for (const name of readdirSync(folder)) form.append('files', await openAsBlob(join(folder, name)), name);
  const { runId } = (await (await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).json()) as {
    runId: string;
  };
  const { attempts } = (await (await fetch(`${server.address}/api/runs/${runId}/attempts`)).json()) as {
    attempts: { id: string; familyId: string }[];
  };
  for (const path of [
    '/',
    `/runs/${runId}?tray=open`,
    `/runs/${runId}?view=order`,
    `/attempts/${attempts[0]!.id}`,
    `/dossiers/${attempts[0]!.familyId}`,
    '/find?words=onerror',
  ]) {
    await page.goto(server.address + path);
    await page.locator('h1').first().waitFor({ state: 'attached' });
    await page.waitForTimeout(250);
    expect(await page.evaluate(() => (window as { caught?: number }).caught), path).toBeUndefined();
    expect(await page.locator('img[src="x"]').count(), path).toBe(0);
  }
  rmSync(folder, { recursive: true });
});

it('threw nothing on the way', () => expect(troubles).toEqual([]));
