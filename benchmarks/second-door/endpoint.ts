// A WebDriver endpoint behind which a DevTools client with layers of its own drives the browser through `iskel browser`:
// suites that were written for `/wd` record the second door unchanged. Outcomes come as a runner's report does, afterwards.
// Run: npm run bench:second-door -- --iskel URL [--port 4990] [--waits explicit|itself] [--over pipe|port] [--client FILE]
import { mkdtempSync } from 'node:fs';
import { createServer, type IncomingMessage } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import type { Browser, BrowserType } from 'playwright-core';
import { standInPath } from '../../src/browser/devtools/stand-in-path.ts';
import { overPort } from '../../tests/devtools-client.ts';
import { ClientSession, CommandError, type Waiting } from './commands.ts';

type Json = Record<string, unknown>;
const { values } = parseArgs({
  options: {
    iskel: { type: 'string', default: 'http://127.0.0.1:4870' },
    port: { type: 'string', default: '4990' },
    waits: { type: 'string', default: 'explicit' },
    over: { type: 'string', default: 'pipe' },
    /** A module with a `chromium` of the same shape: a renamed copy of the client. */
    client: { type: 'string', default: 'playwright-core' },
    plain: { type: 'boolean', default: false },
  },
});
const { chromium } = (await import(values.client)) as { chromium: BrowserType };
const waits = values.waits as Waiting;
const spool = mkdtempSync(join(tmpdir(), 'iskel-second-door-'));
const env = { ISKEL_URL: values.iskel, ISKEL_SPOOL: spool, ISKEL_RUN: 'second-door' };
/** A test is looked for so long, ms. */
const joinMs = 60_000;

async function startBrowser(): Promise<Browser> {
  const args = ['--no-sandbox', '--disable-gpu', '--no-first-run'];
  const path = values.plain ? '/usr/bin/chromium' : standInPath;
  if (values.over === 'pipe')
    return chromium.launch({ executablePath: path, args, env: { ...process.env, ...env } as Record<string, string> });
  const { address } = await overPort(env, 0, path);
  return chromium.connectOverCDP(address);
}

interface Session {
  client: ClientSession;
  asked: { run?: string; number?: number; test?: { suite?: string; title?: string; file?: string } };
  startedAt: number;
  outcome?: { status: string; message?: string; stack?: string };
}
const sessions = new Map<string, Session>();
/** Attempts by the name they were given here: the run and test they were told of as. */
const told = new Map<string, { run: string; title: string; id?: string }>();
let browser: Promise<Browser> | undefined;
let count = 0;

async function begin(body: Json): Promise<Json> {
  const { alwaysMatch = {} } = (body.capabilities ?? {}) as { alwaysMatch?: Json };
  const options = (alwaysMatch['goog:chromeOptions'] ?? {}) as { args?: string[] };
  const [width, height] = (
    options.args?.find((one) => one.startsWith('--window-size='))?.slice(14) ?? '1280,800'
  ).split(',');
  browser ??= startBrowser();
  const context = await (await browser).newContext({ viewport: { width: Number(width), height: Number(height) } });
  const client = await ClientSession.start(context, waits, String(alwaysMatch.unhandledPromptBehavior ?? ''));
  const id = `c${++count}`;
  const asked = (alwaysMatch['iskel:attempt'] ?? {}) as Session['asked'];
  sessions.set(id, { client, asked, startedAt: Date.now() });
  return { sessionId: id, capabilities: { browserName: 'chrome', 'iskel:attempt': { id } } };
}

const xml = (text: string): string =>
  text
    .replace(/[\u0000-\u0008\u000b-\u001f]/g, ' ')
    .replace(/[<>&"\n]/g, (one) => `&#${one.charCodeAt(0)};`);

/** The report of one test, as its runner would have written it. */
function report({ asked, startedAt, outcome, client }: Session): string {
  const { test = {} } = asked;
  const ours = outcome?.message ?? '';
  const own = client.lastError;
  // What the client said itself is what its runner reports, where that is why the test failed.
  const said = own?.client && ours.includes(own.message) ? own.client : ours;
  const failure =
    outcome?.status === 'passed'
      ? ''
      : `<failure message="${xml(said.split('\n')[0]!)}">${xml(`${said}\n${outcome?.stack ?? ''}`)}</failure>`;
  return `<testsuite name="${xml(test.suite ?? '')}"><testcase classname="${xml(test.suite ?? '')}" name="${xml(test.title ?? '')}" file="${xml(test.file ?? '')}" timestamp="${new Date(startedAt).toISOString()}" time="${(Date.now() - startedAt) / 1000}">${failure}</testcase></testsuite>`;
}

async function end(id: string): Promise<void> {
  const session = sessions.get(id)!;
  sessions.delete(id);
  const text = report(session);
  await session.client.context.close();
  if (values.plain) return;
  const { run: name = 'second-door', number = 1, test } = session.asked;
  const run = `${name}-${number}`;
  told.set(id, { run, title: test?.title ?? '' });
  const form = new FormData();
  form.append('run', run);
  form.append('file', new Blob([text]), `${id}.xml`);
  const answer = await fetch(`${values.iskel}/api/intake`, { method: 'POST', body: form });
  if (!answer.ok) console.error(`the report of ${id} was refused: ${await answer.text()}`);
}

/** The attempt that the report of a session became, once it is joined with what was recorded. */
async function attemptOf(id: string): Promise<string | undefined> {
  const known = told.get(id);
  if (!known || known.id !== undefined) return known?.id;
  const get = async <T>(path: string): Promise<T> => (await (await fetch(`${values.iskel}/api${path}`)).json()) as T;
  for (const until = Date.now() + joinMs; Date.now() < until && known.id === undefined; ) {
    const { runs } = await get<{ runs: { id: string; name: string }[] }>('/runs?limit=500');
    const mine = runs.find(({ name }) => name === known.run);
    const { attempts } = mine
      ? await get<{ attempts: { id: string; test: { title: string }; environment: Json | null }[] }>(
          `/runs/${mine.id}/attempts`,
        )
      : { attempts: [] };
    // What is only reported has no browser.
    known.id = attempts.find(({ test, environment }) => test.title === known.title && environment?.browser)?.id;
    if (known.id === undefined) await new Promise((done) => setTimeout(done, 500));
  }
  return known.id;
}

async function bodyOf(request: IncomingMessage): Promise<Json> {
  const parts: Buffer[] = [];
  for await (const part of request) parts.push(part as Buffer);
  const text = Buffer.concat(parts).toString();
  return text ? (JSON.parse(text) as Json) : {};
}

async function answer(method: string, url: string, body: Json): Promise<[number, unknown]> {
  const api = /^\/api\/attempts\/(c\d+)(.*)$/.exec(url);
  if (api) {
    const id = await attemptOf(api[1]!);
    if (id === undefined) return [404, { error: 'not joined with its report' }];
    const from = await fetch(`${values.iskel}/api/attempts/${id}${api[2]!}`);
    return [from.status, await from.json()];
  }
  const path = url.replace(/^\/wd/, '');
  try {
    if (method === 'POST' && path === '/session') return [200, { value: await begin(body) }];
    const [, id, rest = ''] = /^\/session\/(c\d+)(\/.*)?$/.exec(path) ?? [];
    const session = sessions.get(id ?? '');
    if (!session) throw new CommandError('invalid session id', 'no such session');
    if (method === 'DELETE' && rest === '') {
      await end(id!);
      return [200, { value: null }];
    }
    if (rest === '/iskel/outcome') session.outcome = body as never;
    if (rest.startsWith('/iskel/')) return [200, { value: null }];
    return [200, { value: (await session.client.command(method, rest, body)) ?? null }];
  } catch (error) {
    const { code = 'unknown error', message } = error as CommandError;
    return [500, { value: { error: code, message, stacktrace: '' } }];
  }
}

createServer((request, response) => {
  void bodyOf(request)
    .then((body) => answer(request.method!, request.url!, body))
    .then(([status, value]) => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(value));
    })
    .catch((error: Error) => {
      response.writeHead(500);
      response.end(JSON.stringify({ value: { error: 'unknown error', message: error.message, stacktrace: '' } }));
    });
}).listen(Number(values.port), '127.0.0.1', () => console.log(`listens at http://127.0.0.1:${values.port}`));
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    void Promise.resolve(browser)
      .then((one) => one?.close())
      .finally(() => process.exit(0));
  });
