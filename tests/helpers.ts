import type { WebDriver } from '../demo/suite/webdriver.ts';
import axe from 'axe-core';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { connect, createServer as createNetServer } from 'node:net';
import { join, resolve } from 'node:path';
import { chromium, type Browser, type Page } from 'playwright-core';

/** A server of ours as a process of its own, on a data folder of its own and any free port. */
export interface ServerProcess {
  address: string;
  data: string;
  child: ChildProcess;
  stop(): Promise<void>;
}

/** How a program of ours is started: as it was built, where the tests were told that it is, else from its source. */
export function program(source: string): string[] {
  const name = { 'src/server/main.ts': 'main', 'demo/serve.ts': 'demo', 'src/cli/main.ts': 'cli' }[source];
  return process.env.ISKEL_TEST_BUILT && name ? [`dist/server/${name}.mjs`] : ['--import', 'tsx', source];
}

export async function startServerProcess(
  options: { data?: string; env?: Record<string, string> } = {},
): Promise<ServerProcess> {
  const data = options.data ?? mkdtempSync(join(tmpdir(), 'iskel-test-'));
  const env = {
    ...process.env,
    ISKEL_PORT: '0',
    ISKEL_HOST: '127.0.0.1',
    ISKEL_DATA: data,
    ISKEL_TOKEN: '',
    ...options.env,
  };
  const child = spawn(process.execPath, program('src/server/main.ts'), {
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const address = await new Promise<string>((done, fail) => {
    let said = '';
    child.stdout!.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const found = /Iskel is at (\S+)/.exec(said)?.[1];
      if (found) done(found);
    });
    child.on('exit', (code) => fail(new Error(`the server ended with ${code}: ${said}`)));
  });
  const stop = async (): Promise<void> => {
    if (child.exitCode === null && child.signalCode === null) {
      const ended = new Promise((done) => child.once('exit', done));
      child.kill('SIGTERM');
      await ended;
    }
    if (!options.data) rmSync(data, { recursive: true, force: true });
  };
  return { address, data, child, stop };
}

export async function json<T>(method: string, url: string, body?: unknown): Promise<{ status: number; body: T }> {
  const answer = await fetch(url, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  });
  return { status: answer.status, body: (await answer.json()) as T };
}

export const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** The mark that every process of a server on this data folder carries. */
export const markOf = (data: string): string =>
  `${createHash('sha256').update(resolve(data)).digest('hex').slice(0, 8)}-`;

/** Asks until the answer pleases; fails in words after the limit. */
export async function eventually<T>(
  ask: () => Promise<T> | T,
  pleases: (value: T) => boolean,
  limitMs = 15_000,
): Promise<T> {
  const end = Date.now() + limitMs;
  for (;;) {
    const value = await ask();
    if (pleases(value)) return value;
    if (Date.now() > end)
      throw new Error(`not fulfilled in ${limitMs} ms; last seen: ${JSON.stringify(value)?.slice(0, 600)}`);
    await sleep(50);
  }
}

/** Waits until an attempt is analysed. */
export async function ready(address: string, id: string): Promise<AttemptView> {
  return eventually(
    async () => (await json<AttemptView>('GET', `${address}/api/attempts/${id}`)).body,
    (attempt) => attempt.state === 'ready',
  );
}

export interface AttemptView {
  id: string;
  runId: string;
  test: { suite: string; title: string };
  number: number;
  outcome: string;
  state: string;
  failure: { sentence: string; kind: string; ownFrame?: { file: string; line: number } } | null;
  familyId: string | null;
  leading: { cause: string; probability: number } | null;
  undetermined: boolean;
  interruptedBy: string | null;
  durationMs: number;
}

/** Debian's Chromium, as the tests that drive a page themselves open it. */
export const openBrowser = (): Promise<Browser> =>
  chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });

/** Two frames later, what a key brought about stands on the screen, however slow the machine. */
const drawn = (page: Page): Promise<void> =>
  page
    .evaluate(
      () =>
        new Promise<void>((done) => {
          requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done)));
        }),
    )
    // The key led to another page.
    .catch(() => undefined);

/** A page on which a key is only done with when the screen shows what it did. */
export async function openScreen(browser: Browser, width = 1280, height = 800): Promise<Page> {
  const page = await browser.newPage({ viewport: { width, height } });
  const press = page.keyboard.press.bind(page.keyboard);
  page.keyboard.press = async (key, options) => {
    await press(key, options);
    await drawn(page);
  };
  return page;
}

export const chromeArguments = [
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--window-size=1280,800',
];

/** What axe-core finds wrong with a page, each with its first place. */
export async function violationsOf(page: Page): Promise<[string, string | undefined][]> {
  await page.evaluate(axe.source);
  const { violations } = await page.evaluate(() => (window as unknown as { axe: typeof axe }).axe.run());
  return violations.map(({ id, nodes }) => [id, nodes[0]?.html]);
}

/** The attempts of the first run whose name fits; none while there is no such run. */
export async function attemptsOfRun(address: string, fits: (name: string) => boolean): Promise<AttemptView[]> {
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${address}/api/runs?limit=50`);
  const id = body.runs.find(({ name }) => fits(name))?.id;
  if (!id) return [];
  return (await json<{ attempts: AttemptView[] }>('GET', `${address}/api/runs/${id}/attempts`)).body.attempts;
}

export const evidenceOf = async (address: string, id: string): Promise<EvidenceEvent[]> =>
  (await json<{ events: EvidenceEvent[] }>('GET', `${address}/api/attempts/${id}/events?limit=5000`)).body.events;

/** What the commands of an attempt are called. */
export const commandLabels = (events: readonly EvidenceEvent[]): string[] =>
  events.flatMap((one) => (one.lane === 'step' && one.kind === 'command' ? [one.data.label] : []));

/**
 * Where a driver can be spoken to by the fetch of tests, which keeps away from the ports that drivers are given: what comes
 * there is handed on as it is. It goes with the process.
 */
export async function forwarded(base: string): Promise<string> {
  const { hostname, port, pathname } = new URL(base);
  const server = createNetServer((client) => {
    const driver = connect(Number(port), hostname);
    client.pipe(driver).pipe(client);
    client.on('error', () => driver.destroy());
    driver.on('error', () => client.destroy());
  });
  server.unref();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return `http://127.0.0.1:${(server.address() as { port: number }).port}${pathname}`;
}

/** Keys sent one after the other, each as an action of its own, to whatever has the focus. */
export async function pressKeys(driver: Pick<WebDriver, 'send'>, keys: string): Promise<void> {
  for (const value of keys)
    await driver.send('POST', '/actions', {
      actions: [
        {
          type: 'key',
          id: 'k',
          actions: [
            { type: 'keyDown', value },
            { type: 'keyUp', value },
          ],
        },
      ],
    });
}
