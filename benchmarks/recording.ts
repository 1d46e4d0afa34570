// What recording costs a test: the same 60 commands through /wd and straight to chromedriver, in turn.
// Run: npm run bench:recording [pairs] [light|standard|full]
import { Agent, request } from 'node:http';
import { spawn } from 'node:child_process';
import { startFerrySite } from '../demo/site/site.ts';
import { median } from '../src/core/stats/median.ts';
import { chromeArguments, startServerProcess } from '../tests/helpers.ts';

const pairs = Number(process.argv[2]) || 12;
const detail = process.argv[3] ?? 'standard';
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

/** 60 commands as a booking test sends them: opens, finds, types, presses, reads. */
async function scenario(base: string, session: string, site: string): Promise<number> {
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
}

async function run(base: string, site: string, own: object): Promise<{ commands: number; session: number }> {
  const begun = performance.now();
  const capabilities = {
    alwaysMatch: { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments }, ...own },
  };
  const { sessionId } = await call<{ sessionId: string }>(base, 'POST', '/session', { capabilities });
  const start = performance.now();
  const sent = await scenario(base, sessionId, site);
  const end = performance.now();
  await call(base, 'DELETE', `/session/${sessionId}`);
  if (sent !== 60) throw new Error(`the scenario sent ${sent} commands, not 60`);
  return { commands: end - start, session: start - begun + (performance.now() - end) };
}

const site = await startFerrySite();
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
const as = (title: string): object => ({
  'iskel:attempt': { run: 'benchmark', test: { suite: 'benchmark', title }, detail },
});
/** A test that ran before has what it looks for watched from its start; a new one only from its first use on. */
const own = as('sixty commands');
const rows: {
  recorded: number;
  first: number;
  direct: number;
  ratio: number;
  firstRatio: number;
  sessionExtra: number;
}[] = [];
try {
  await run(direct, site.address, {});
  await run(recorded, site.address, own);
  for (let pair = 0; pair < pairs; pair++) {
    // Which goes first changes, so that a machine that slows down hurts both alike.
    const first = pair % 2 === 0;
    const a = first ? await run(recorded, site.address, own) : undefined;
    const b = await run(direct, site.address, {});
    const c = a ?? (await run(recorded, site.address, own));
    const d = await run(recorded, site.address, as(`sixty commands, new ${pair}`));
    rows.push({
      recorded: c.commands,
      first: d.commands,
      direct: b.commands,
      ratio: c.commands / b.commands,
      firstRatio: d.commands / b.commands,
      sessionExtra: c.session - b.session,
    });
  }
} finally {
  driver.kill();
  await server.stop();
  await site.close();
}
const of = (key: keyof (typeof rows)[number]): number[] => rows.map((row) => row[key]);
console.log(`60 commands, ${pairs} pairs, detail ${detail}`);
console.log(
  `recorded  median ${median(of('recorded')).toFixed(0)} ms   (${Math.min(...of('recorded')).toFixed(0)} to ${Math.max(...of('recorded')).toFixed(0)})`,
);
console.log(
  `direct    median ${median(of('direct')).toFixed(0)} ms   (${Math.min(...of('direct')).toFixed(0)} to ${Math.max(...of('direct')).toFixed(0)})`,
);
console.log(`ratio     median ${median(of('ratio')).toFixed(3)}   goal 1.05 at standard detail`);
console.log(
  `of a test’s first attempt ${median(of('firstRatio')).toFixed(3)}   (nothing watched before its first use)`,
);
console.log(`session start and end: ${median(of('sessionExtra')).toFixed(0)} ms more when recorded (median)`);
process.exit(0);
