import axe from 'axe-core';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readVtt } from '../src/core/formats/vtt.ts';
import { readWebm } from '../src/core/formats/webm.ts';
import { startDemo } from './demo.ts';
import { openBrowser, openScreen } from './helpers.ts';

/** The real interface in a real browser, on the demo's recorded runs and its live ferry shop. */
let demo: Awaited<ReturnType<typeof startDemo>>;
let address: string;
let browser: Browser;
let page: Page;
const troubles: string[] = [];

beforeAll(async () => {
  demo = await startDemo();
  ({ address } = demo);
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') troubles.push(message.text());
  });
});
afterAll(async () => {
  await browser.close();
  await demo.stop();
});

const heading = (): Promise<string> => page.locator('h1').first().innerText();

/** Goes on from clue to clue by key until one says these words. */
async function clueSaying(words: string): Promise<void> {
  for (let i = 0; i < 12; i++) {
    await page.keyboard.press('ArrowRight');
    if ((await page.locator('button.clue.on').innerText()).includes(words)) return;
  }
  throw new Error(`no clue says “${words}”`);
}

/** @param only the rule that is asked; every rule without */
async function seriousViolations(only?: string): Promise<string[]> {
  await page.evaluate(axe.source);
  const result = await page.evaluate(
    async (rule) =>
      (window as unknown as { axe: typeof axe }).axe.run(document, {
        resultTypes: ['violations'],
        ...(rule ? { runOnly: [rule] } : {}),
      }),
    only,
  );
  return result.violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map((v) => `${v.id}: ${v.nodes[0]?.html}`);
}

describe('from Arrivals to the verdict', () => {
  it('Arrivals shows the runs, newest first, with their families', async () => {
    await page.goto(address);
    await page.getByRole('link', { name: 'nightly-184' }).waitFor();
    expect(await page.locator('article h2').allInnerTexts()).toEqual([
      'evening-12',
      'nightly-184',
      'nightly-183',
      'harbour-33',
      'harbour-32',
      'harbour-31',
    ]);
    expect(await page.locator('article').nth(1).innerText()).toContain(
      '1 of 8 tests failed, 2 tests passed only on retry',
    );
    expect(await page.locator('article').nth(1).locator('li').count()).toBe(3);
  });

  it('Enter leads to the run sheet, where cells are moved through by keys', async () => {
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/runs\//);
    await page.locator('table').waitFor();
    expect(await heading()).toBe('7 failures in 3 families; 2 tests passed only on retry');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    expect(await page.locator('tr.chosen th').innerText()).toContain('holds a seat on the evening sailing');
    await page.keyboard.press('ArrowRight');
    expect(await page.locator('td.cell.chosen a').count()).toBe(2);
    await page.keyboard.press('ArrowLeft');
  });

  it('words and outcomes narrow the sheet, and stand in the address', async () => {
    await page.keyboard.press('/');
    await page.keyboard.type('bicycle');
    await page.waitForURL(/words=bicycle/);
    expect(await page.locator('tbody tr').count()).toBe(1);
    await page.locator('#words').fill('');
    await page.getByRole('button', { name: 'flaky', exact: true }).click();
    await page.waitForURL(/show=flaky/);
    expect(await page.locator('tbody tr').count()).toBe(2);
    await page.getByRole('button', { name: 'all', exact: true }).click();
    await page.waitForURL((url) => !url.search.includes('show'));
  });

  it('the bench opens at the failure and says it in one sentence', async () => {
    await page.getByRole('link', { name: /holds a seat on the evening sailing, attempt 2, failed/ }).click();
    await page.waitForURL(/\/attempts\//);
    await page.getByRole('slider').waitFor();
    expect(await heading()).toBe('Press on “Hold seat” hit an element that had already been replaced or removed');
    expect(await page.locator('.under').innerText()).toMatch(
      /stale element reference.* at tests\.ts:\d+ \(your code; \d+ library frames? folded\)/,
    );
    expect(await page.getByRole('slider').getAttribute('aria-valuetext')).toContain('Press on “Hold seat”');
  });

  it('the level moves by step, by picture or poll, and back to the failure', async () => {
    const level = async (): Promise<number> => Number(await page.getByRole('slider').getAttribute('aria-valuenow'));
    const atFailure = await level();
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('ArrowUp');
    const above = await level();
    expect(above).toBeLessThan(atFailure);
    expect(await page.getByRole('slider').getAttribute('aria-valuetext')).toContain('Wait for text of “.fare”');
    await page.keyboard.press('Shift+ArrowDown');
    const finer = await level();
    expect(finer).toBeGreaterThan(above);
    expect(finer).toBeLessThan(atFailure);
    await page.keyboard.press('f');
    expect(await level()).toBe(atFailure);
    await page.waitForURL(/at=\d/);
  });

  it('the exhibit shows the element when found and when pressed', async () => {
    const text = await page.getByRole('region', { name: 'Element then and now' }).innerText();
    expect(text).toMatch(/found at \d\.\d{3} s\n+node (\d+) · in the page\n+data-render="1"/);
    expect(text).toMatch(/node \d+ · gone since \d\.\d{3} s\n+now node \d+\n+data-render="2"/);
    await page.locator('.stage svg rect.target.replaced').waitFor();
    await page.locator('.stage svg .press.missed').waitFor();
  });

  it('choosing a clue by key draws brackets to its evidence and puts it in the address', async () => {
    await clueSaying('was replaced');
    await page.waitForURL(/clue=\d/);
    expect(await page.locator('.brackets circle').count()).toBe(3);
    expect(await page.locator('.plank.evidence').count()).toBe(2);
    const before = page.url();
    await page.reload();
    await page.locator('button.clue.on').waitFor();
    expect(page.url()).toBe(before);
    expect(await page.locator('button.clue.on').innerText()).toContain('was replaced');
  });

  it('no two labels of the bench overlap', async () => {
    for (const selector of ['.sheet .label', '.pennant']) {
      const boxes = await page
        .locator(selector)
        .evaluateAll((list) =>
          list
            .map((el) => el.getBoundingClientRect())
            .map(({ left, right, top, bottom }) => ({ left, right, top, bottom })),
        );
      for (let i = 0; i < boxes.length; i++)
        for (let j = i + 1; j < boxes.length; j++) {
          const a = boxes[i]!;
          const b = boxes[j]!;
          const overlap =
            Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 &&
            Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 1;
          expect(overlap, `${selector} ${i} and ${j}: ${JSON.stringify([a, b])}`).toBe(false);
        }
    }
  });

  it('from the failure to what the developer needs, by keys alone', async () => {
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write'], { origin: address });
    const focused = (): Promise<string> =>
      page.evaluate(
        () => document.activeElement?.getAttribute('aria-label') ?? document.activeElement?.textContent ?? '',
      );
    const press = async (...keys: string[]): Promise<void> => {
      for (const key of keys) await page.keyboard.press(key);
    };
    await press('Escape', 'f');
    await clueSaying('/api/fare/e-1840 answered');
    const element = page.getByRole('region', { name: 'Element then and now' });
    expect(await element.innerText()).toContain('gone since');
    // The request that changed it.
    await press('n');
    await page.getByRole('listbox', { name: /^Network/ }).waitFor();
    expect(await focused()).toMatch(/^Network, \d+ of \d+/);
    await press('End', 'Home', 'ArrowDown', 'ArrowDown');
    expect(await page.locator('[role=option][aria-selected=true]').innerText()).toMatch(/200.*GET/s);
    // What the console said of it, and a copy of that.
    await press('Escape');
    await page.getByRole('region', { name: 'At this moment' }).waitFor();
    await press('l');
    await page.getByRole('listbox', { name: /^Console/ }).waitFor();
    await press('End');
    expect(await page.locator('[role=option][aria-selected=true]').innerText()).toContain('seat panel rendered');
    expect(await focused()).toMatch(/^Console/);
    for (let i = 0; i < 4 && (await focused()) !== 'Copy for the developer'; i++) await press('Tab');
    expect(await focused()).toBe('Copy for the developer');
    await press('Enter');
    await page.getByText(/lines? copied/).waitFor();
    expect(await page.evaluate(() => navigator.clipboard.readText())).toMatch(
      /^\d+\.\d{3} s {2}info {5}seat panel rendered/m,
    );
    await page.waitForURL(/side=console/);
    await press('l');
    await page.getByRole('region', { name: 'Screen at this level' }).waitFor();
  });

  it('time is drawn folded, unfolded and true, from nearer and further, and the address keeps it', async () => {
    const tall = (): Promise<number> => page.locator('.sheet').evaluate((el) => el.clientHeight);
    const folded = await tall();
    await page.keyboard.press('z');
    await page.waitForFunction((before) => document.querySelector('.sheet')!.clientHeight > before, folded);
    await page.keyboard.press('t');
    await page.waitForURL(/time=true/);
    await page.keyboard.press('t');
    const usual = await tall();
    await page.keyboard.press('+');
    await page.waitForFunction((before) => document.querySelector('.sheet')!.clientHeight > before, usual);
    await page.waitForURL(/zoom=1\.5/);
    await page.keyboard.press('b');
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('b');
    await page.waitForURL(/range=\d/);
    const kept = page.url();
    await page.reload();
    await page.locator('.band').waitFor();
    expect(page.url()).toBe(kept);
    await page.getByRole('button', { name: 'Clear' }).click();
    await page.keyboard.press('-');
    const level = async (): Promise<number> => Number(await page.getByRole('slider').getAttribute('aria-valuenow'));
    const before = await level();
    await page.keyboard.press('p');
    await page.waitForFunction(
      (at) => Number(document.querySelector('[role=slider]')!.getAttribute('aria-valuenow')) > at,
      before,
    );
    await page.keyboard.press('p');
    await page.keyboard.press('f');
  });

  it('poles are hidden, moved and widened, and stay so', async () => {
    const heads = (): Promise<string[]> => page.locator('.head').allInnerTexts();
    await page.getByRole('button', { name: 'Poles' }).click();
    await page.getByRole('checkbox', { name: 'Network' }).uncheck();
    await page.getByRole('checkbox', { name: 'Page' }).check();
    await page.getByRole('button', { name: 'Console further left' }).click();
    await page.getByRole('button', { name: 'Console further left' }).click();
    await page.getByRole('button', { name: 'Console further left' }).click();
    await page.keyboard.press('Escape');
    await expect.poll(async () => (await heads()).join(' ')).not.toContain('Network');
    const now = (await heads()).map((head) => head.trim().split(/\s/)[0]);
    expect(now).toContain('Page');
    expect(now.indexOf('Console')).toBeLessThan(now.indexOf('Elements'));
    await page.reload();
    await page.locator('.head').first().waitFor();
    await expect.poll(async () => (await heads()).map((head) => head.trim().split(/\s/)[0])).toEqual(now);
    await page.getByRole('button', { name: 'Poles' }).click();
    await page.getByRole('button', { name: 'As it was' }).click();
    await page.keyboard.press('Escape');
    expect((await heads()).join(' ')).toContain('Network');
  });

  it('two pictures are compared, and the session is handed over as a film with its steps', async () => {
    await page.keyboard.press('k');
    const compare = page.getByRole('region', { name: 'Two pictures compared' });
    await compare.getByText(/pixels? of \d+ differ, in \d+ places?|are the same/).waitFor();
    await compare.getByRole('button', { name: 'swipe' }).click();
    await compare.getByRole('slider').fill('30');
    await compare.getByRole('button', { name: 'side by side' }).click();
    expect((await compare.getByRole('img').count()) + (await compare.locator('img').count())).toBeGreaterThanOrEqual(2);
    await page.keyboard.press('k');
    const id = /attempts\/([\w-]+)/.exec(page.url())![1]!;
    const film = new Uint8Array(await (await fetch(`${address}/api/attempts/${id}/film`)).arrayBuffer());
    const read = readWebm(film);
    expect(read.problem).toBeUndefined();
    expect(read.frames.length).toBeGreaterThan(10);
    const { cues, problems } = readVtt(await (await fetch(`${address}/api/attempts/${id}/film.vtt`)).text());
    expect(problems).toEqual([]);
    expect(cues.map(({ text }) => text).join('\n')).toContain('Press on “Hold seat”');
    expect(cues.at(-1)!.at).toBeLessThanOrEqual(read.durationMs + 100);
  });

  it('D makes a drill, whose faults are marked as one types', async () => {
    await page.keyboard.press('d');
    await page.waitForURL(/\/drills\/d-/);
    const editor = page.getByRole('textbox', { name: 'Text of the drill' });
    const text = await editor.inputValue();
    expect(text).toContain('press hold-seat');
    await editor.fill(`${text}fly away\n`);
    await page.getByText(/“fly” is no statement/).waitFor();
    expect(await page.getByRole('button', { name: 'Play' }).isDisabled()).toBe(true);
    // Played on the shop of this test, wherever it found a port.
    await editor.fill(text.replaceAll(/http:\/\/127\.0\.0\.1:\d+/g, demo.site));
    await page.getByText('Reads well.').waitFor();
  });

  it('P plays it: trials grow, the rate shows its interval, and it can be stopped', async () => {
    await page.locator('#trials').fill('30');
    await page.locator('h1').click();
    await page.keyboard.press('p');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    await page.waitForFunction(() => document.querySelectorAll('.trials a').length >= 8, undefined, {
      timeout: 60_000,
    });
    await page.keyboard.press('s');
    await page.getByText(/stopped after \d+ of 30/).waitFor({ timeout: 20_000 });
    expect(await heading()).toMatch(/^\d+ of \d+ trials fail the same way$/);
    await page.getByText(/with 95 % certainty/).waitFor();
    const links = page.locator('.trials a');
    expect(await links.count()).toBeLessThan(30);
  }, 120_000);

  it('a trial is an attempt with its own bench', async () => {
    await page.locator('.trials a').first().click();
    await page.waitForURL(/\/attempts\//);
    await page.getByRole('slider').waitFor();
    expect(await page.locator('.plank').count()).toBeGreaterThan(3);
    await page.goBack();
    await page.locator('.trials').waitFor();
  });

  it('the dossier confirms, clears with a reason, notes, and takes back', async () => {
    await page.locator('.crumbs a', { hasText: 'Press on' }).click();
    await page.waitForURL(/\/dossiers\/f-/);
    await page.getByText('No cause is confirmed yet.').waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('The cause is replaced element.').waitFor();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('x');
    await page.getByRole('dialog').locator('input').fill('nothing was awaited at the press');
    await page.keyboard.press('Enter');
    await page.getByText('cleared: nothing was awaited at the press').waitFor();
    await page.keyboard.press('u');
    await page.getByText('cleared: nothing was awaited at the press').waitFor({ state: 'detached' });
    await page.locator('#note').fill('Panel is rendered twice when the fare comes late.');
    await page.getByRole('button', { name: 'Keep note' }).click();
    await page.getByText('Note kept').waitFor();
  });

  it('the verdict shows on Arrivals and on the run sheet', async () => {
    await page.goto(address);
    const row = page.locator('article').nth(1).locator('li', { hasText: 'Press on “Hold seat” hit' });
    await row.getByText('confirmed: replaced element').waitFor();
    expect(await row.innerText()).toContain('Panel is rendered twice');
    await page.getByRole('link', { name: 'nightly-184' }).click();
    await page.locator('.family.row', { hasText: 'confirmed: replaced element' }).waitFor();
  });
});

describe('what will flake next', () => {
  it('lists tests that pass with the line to change, and leads to the moment, by keys alone', async () => {
    await page.goto(`${address}/next`);
    expect(await heading()).toBe('What will flake next');
    const rows = page.getByRole('list', { name: 'Tests, the likeliest first' }).locator('li');
    await rows.first().waitFor();
    const early = rows.filter({ hasText: 'offers a free cabin' });
    expect(await early.innerText()).toContain('reads too early');
    expect(await early.innerText()).toContain('green in the last 3');
    while (!(await early.getAttribute('class'))?.includes('chosen')) await page.keyboard.press('ArrowDown');
    const told = page.getByRole('region', { name: 'Risks of offers a free cabin' });
    expect(await told.innerText()).toMatch(/gave “free”; \d+ ms later the page made it “taken/);
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/attempts\/.*at=/);
    await expect.poll(heading).toBe('Passed, and doubtful: checked before settled');
    await page.keyboard.press('w');
    const here = page.getByRole('region', { name: 'What may not hold the next time' });
    await here.waitFor();
    expect(await here.innerText()).toContain('reads too early');
  });

  it('is narrowed by kind, words and what never failed, all in the address, and says when nothing is left', async () => {
    await page.goto(`${address}/next`);
    await page.getByRole('button', { name: /^sleeps a fixed time/ }).click();
    await page.waitForURL(/kind=fixed-sleep/);
    await page.keyboard.press('g');
    await page.waitForURL(/green=true/);
    const list = page.getByRole('list', { name: 'Tests, the likeliest first' });
    await expect.poll(() => list.innerText()).not.toContain('failed in');
    await page.goto(`${address}/next?words=nothing%20of%20this`);
    await page.getByText('No test is as asked').waitFor();
    await page.getByRole('button', { name: 'Show all that are listed' }).click();
    await list.locator('li').first().waitFor();
    const csv = await (await fetch(`${address}/api/outlook?as=csv`)).text();
    expect(csv.split(/\r?\n/)[0]).toBe(
      'suite,test,likely,risk,step,source,seen in,of,chance,what was seen,what to change',
    );
    expect((await fetch(`${address}/api/outlook?kind=bad-luck`)).status).toBe(400);
  });
});

describe('every screen', () => {
  it('has no serious accessibility violation, in the light and in the dark', async () => {
    const found: string[] = [];
    const runs = (await (await fetch(`${address}/api/runs`)).json()) as {
      runs: { id: string; name: string; families: { id: string }[] }[];
    };
    const { attempts } = (await (await fetch(`${address}/api/runs/${runs.runs[0]!.id}/attempts`)).json()) as {
      attempts: { id: string; outcome: string }[];
    };
    const night = runs.runs.find(({ name }) => name === 'nightly-184')!;
    const recorded = (
      (await (await fetch(`${address}/api/runs/${night.id}/attempts`)).json()) as {
        attempts: { id: string; outcome: string; leading: { cause: string } | null }[];
      }
    ).attempts.find((one) => one.leading?.cause === 'covered-target')!;
    const { drills } = (await (await fetch(`${address}/api/drills`)).json()) as { drills: { id: string }[] };
    const paths = [
      '/',
      `/runs/${runs.runs[0]!.id}?tray=open`,
      `/runs/${runs.runs[0]!.id}?view=order`,
      `/runs/${runs.runs[0]!.id}?view=places`,
      '/find?words=seat',
      `/attempts/${attempts.find((a) => a.outcome === 'failed')!.id}`,
      ...['', '?side=console', '?side=network', '?side=structure', '?side=compare'].map(
        (query) => `/attempts/${recorded.id}${query}`,
      ),
      `/contrast?failing=${recorded.id}`,
      '/next',
      '/rules',
      '/dossiers',
      `/dossiers/${runs.runs[0]!.families[0]!.id}`,
      '/drills',
      `/drills/${drills[0]!.id}`,
    ];
    for (const path of paths) {
      await page.goto(address + path);
      await page.locator('h1').first().waitFor();
      // In the dark a screen has other colours and nothing else that is other.
      for (const [colorScheme, only] of [['light'], ['dark', 'color-contrast']] as const) {
        await page.emulateMedia({ colorScheme });
        await page.waitForTimeout(200);
        found.push(...(await seriousViolations(only)).map((violation) => `${path} (${colorScheme}) ${violation}`));
      }
    }
    expect(found).toEqual([]);
  });

  it('says so when there is nothing at an address', async () => {
    await page.goto(`${address}/no/such/place`);
    expect(await heading()).toBe('There is nothing at this address');
    await page.goto(`${address}/attempts/a-nothing`);
    await page.getByRole('alert').waitFor();
    expect(await page.getByRole('alert').innerText()).toContain('there is no attempt “a-nothing” here');
  });

  it('lists its keys on ?', async () => {
    await page.goto(address);
    await page.locator('h1').first().waitFor({ state: 'attached' });
    await page.keyboard.press('?');
    expect(await page.getByRole('dialog').innerText()).toContain('open its sheet');
  });

  it('threw nothing on the way', () => {
    expect(troubles.filter((trouble) => !trouble.includes('404'))).toEqual([]);
  });
});
