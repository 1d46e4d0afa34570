// What recording costs a test: the same commands through /wd and straight to chromedriver, in turn, on quiet pages and on
// one that never rests, at standard and at light detail.
// Run: npm run bench:recording [pairs]
import { Agent, request } from 'node:http';
import { spawn } from 'node:child_process';
import { startFerrySite } from '../demo/site/site.ts';
import { startRestlessPage } from './restless-page.ts';
import { median } from '../src/core/stats/median.ts';
import { chromeArguments, startServerProcess } from '../tests/helpers.ts';

const pairs = Number(process.argv[2]) || 12;
const key = 'element-6066-11e4-a52e-4f735466cecf';
const agent = new Agent({ keepAlive: true });

function call<T>(base: string, method: string, path: string, body?: unknown): Promise<T> {
  const url = new URL(base + path);
  const bytes = method === 'POST' ? JSON.stringify(body ?? {}) : '';
  return new Promise((done, fail) => {
    const outgoing = request(
      url,
      {
        method,
        agent,
        headers:
          method === 'POST' ? { 'content-type': 'application/json', 'content-length': Buffer.byteLength(bytes) } : {},
      },
      (answer) => {
        const chunks: Buffer[] = [];
        answer.on('data', (chunk: Buffer) => chunks.push(chunk));
        answer.on('end', () => {
          const { value } = JSON.parse(Buffer.concat(chunks).toString()) as {
            value: T & { error?: string; message?: string };
          };
          if (answer.statusCode === 200) done(value);
          else fail(new Error(`${path}: ${value.error} ${value.message}`));
        });
      },
    );
    outgoing.on('error', fail);
    outgoing.end(bytes);
  });
}

type Sender = <T>(method: string, path: string, body?: unknown) => Promise<T>;
/** Sends the commands of a tour; gives how many there were. */
type Tour = (base: string, session: string, site: string) => Promise<number>;

/** 64 commands on a page that never rests. */
const restless: Tour = async (base, session, site) => {
  let sent = 0;
  const send: Sender = <T>(method: string, path: string, body?: unknown) => {
    sent++;
    return call<T>(base, method, `/session/${session}${path}`, body);
  };
  const find = async (css: string): Promise<string> =>
    (await send<Record<string, string>>('POST', '/element', { using: 'css selector', value: css }))[key]!;
  await send('POST', '/url', { url: site });
  await send('GET', `/element/${await find('h1')}/text`);
  await send('POST', `/element/${await find('#passenger')}/value`, { text: 'Ada' });
  await send('GET', `/element/${await find('#hold')}/enabled`);
  for (let i = 0; i < 9; i++) {
    const seat = await find(`[data-seat="${i}"]`);
    await send('POST', `/element/${seat}/click`);
    await send('GET', `/element/${seat}/attribute/aria-pressed`);
    await send('GET', `/element/${await find(`[data-sailing="${i}"] .time`)}/text`);
    await send('GET', '/title');
  }
  while (sent < 64) await send('GET', '/url');
  return sent;
};

/** 60 commands as a booking test sends them: opens, finds, types, presses, reads. */
const quiet: Tour = async (base, session, site) => {
  let sent = 0;
  const send = <T>(method: string, path: string, body?: unknown): Promise<T> => {
    sent++;
    return call<T>(base, method, `/session/${session}${path}`, body);
  };
  const find = async (css: string): Promise<string> =>
    (await send<Record<string, string>>('POST', '/element', { using: 'css selector', value: css }))[key]!;
  const text = async (css: string): Promise<string> => send<string>('GET', `/element/${await find(css)}/text`);
  await send('POST', '/url', { url: `${site}/sailings?to=Kuzu%20Island` });
  await text('h1');
  await text('.count');
  await text('.cancelled .state');
  await send('GET', '/title');
  for (const [sailing, seat] of [
    ['e-1840', '2A'],
    ['m-0710', '3B'],
    ['l-2130', '4C'],
  ] as const) {
    await send('POST', '/url', { url: `${site}/sailings/${sailing}` });
    await text('h1');
    await text('.legend');
    await send('POST', `/element/${await find('#passenger')}/value`, { text: 'Ada' });
    await send('GET', `/element/${await find('#passenger')}/property/value`);
    await send('POST', `/element/${await find(`[data-seat="${seat}"]`)}/click`);
    await send('GET', `/element/${await find(`[data-seat="${seat}"]`)}/attribute/aria-pressed`);
    await send('GET', `/element/${await find('#hold')}/enabled`);
    await send('GET', '/url');
  }
  while (sent < 60) await send('GET', '/title');
  return sent;
};

async function run(
  tour: Tour,
  base: string,
  site: string,
  own: object,
): Promise<{ commands: number; session: number }> {
  const begun = performance.now();
  const capabilities = {
    alwaysMatch: { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments }, ...own },
  };
  const { sessionId } = await call<{ sessionId: string }>(base, 'POST', '/session', { capabilities });
  const start = performance.now();
  await tour(base, sessionId, site);
  const end = performance.now();
  await call(base, 'DELETE', `/session/${sessionId}`);
  return { commands: end - start, session: start - begun + (performance.now() - end) };
}

const site = await startFerrySite();
const board = await startRestlessPage();
const server = await startServerProcess();
const driver = spawn('chromedriver', ['--port=0', '--log-level=SEVERE'], { stdio: ['ignore', 'pipe', 'inherit'] });
const port = await new Promise<string>((done) =>
  driver.stdout.on('data', (chunk: Buffer) => {
    const found = /successfully on port (\d+)/.exec(chunk.toString())?.[1];
    if (found) done(found);
  }),
);
const direct = `http://127.0.0.1:${port}`;
const recorded = `${server.address}/wd`;
const as = (title: string, detail: string): object => ({
  'iskel:attempt': { run: 'benchmark', test: { suite: 'benchmark', title }, detail },
});
const tours = [
  { name: 'quiet', tour: quiet, address: site.address, goals: { standard: 1.05, light: 1.03 } },
  { name: 'restless', tour: restless, address: board.address, goals: { standard: 1.08, light: 1.03 } },
];
interface Row {
  direct: number;
  standard: number;
  light: number;
  extra: number;
}
const rows = new Map<string, Row[]>(tours.map(({ name }) => [name, []]));
try {
  for (const { name, tour, address } of tours) {
    await run(tour, direct, address, {});
    // A test that ran before has what it looks for watched from its start.
    for (const detail of ['standard', 'light']) await run(tour, recorded, address, as(`${name} ${detail}`, detail));
  }
  for (let pair = 0; pair < pairs; pair++)
    for (const { name, tour, address } of tours) {
      // Which goes first changes, so that a machine that slows down hurts all alike.
      const order = ['direct', 'standard', 'light'] as const;
      const row = {} as Row;
      for (const one of order.map((_, i) => order[(i + pair) % order.length]!)) {
        const own = one === 'direct' ? {} : as(`${name} ${one}`, one);
        const { commands, session } = await run(tour, one === 'direct' ? direct : recorded, address, own);
        row[one] = commands;
        row.extra = (row.extra ?? 0) + (one === 'direct' ? -session : one === 'standard' ? session : 0);
      }
      rows.get(name)!.push(row);
    }
} finally {
  driver.kill();
  await server.stop();
  await site.close();
  await board.close();
}
for (const { name, goals } of tours) {
  const all = rows.get(name)!;
  console.log(`${name}: ${pairs} pairs, straight median ${median(all.map((row) => row.direct)).toFixed(0)} ms`);
  for (const detail of ['standard', 'light'] as const) {
    const ratios = all.map((row) => row[detail] / row.direct).sort((a, b) => a - b);
    console.log(
      `  ${detail.padEnd(9)} ratio median ${median(ratios).toFixed(3)}  (${ratios[0]!.toFixed(3)} to ${ratios.at(-1)!.toFixed(3)})  goal ${goals[detail]}`,
    );
  }
  console.log(
    `  session start and end: ${median(all.map((row) => row.extra)).toFixed(0)} ms more when recorded (median)`,
  );
}
process.exit(0);
