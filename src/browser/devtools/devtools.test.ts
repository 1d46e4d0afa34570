import { createServer, connect, type AddressInfo, type Server } from 'node:net';
import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer as createHttp } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import WebSocket, { WebSocketServer } from 'ws';
import { step } from '../../core/evidence/samples.ts';
import { readPack } from '../../core/formats/pack.ts';
import type { ClientStep } from './client-step.ts';
import { ClientSteps } from './client-steps.ts';
import { deliver } from './deliver.ts';
import { InputJoining, type JoinedAct } from './input-joining.ts';
import { NulMessages } from './nul-messages.ts';
import { announced, passPort } from './passing.ts';
import { saidByWebDriver } from './said-by-webdriver.ts';
import { SocketMessages } from './socket-messages.ts';
import { readyIn, SpoolSink } from './spool.ts';

/** What is passed on between a DevTools client and a browser, and what is read of it beside them. */

type Json = Record<string, unknown>;

describe('messages over a pipe', () => {
  it('are the same however the stream is cut', () => {
    const text = fc.string({ maxLength: 40 }).map((one) => one.replaceAll('\0', ' '));
    fc.assert(
      fc.property(fc.array(text, { maxLength: 20 }), fc.array(fc.nat(60), { maxLength: 30 }), (texts, cuts) => {
        const told: string[] = [];
        const messages = new NulMessages((one) => told.push(one!.toString()));
        let stream = Buffer.from(texts.map((one) => `${one}\0`).join(''));
        for (const cut of cuts) {
          messages.push(stream.subarray(0, cut));
          stream = stream.subarray(cut);
        }
        messages.push(stream);
        expect(told).toEqual(texts);
      }),
    );
  });

  it('that are longer than what is read are told without their bytes, and the next is whole', () => {
    const told: (number | undefined)[] = [];
    const messages = new NulMessages((one) => told.push(one?.length));
    const large = Buffer.alloc(9 * 1024 * 1024, 'x');
    for (let i = 0; i < 3; i++) messages.push(large);
    messages.push(Buffer.from('\0after\0'));
    expect(told).toEqual([undefined, 5]);
  });
});

describe('what is passed on', () => {
  let servers: Server[] = [];
  afterEach(() => {
    for (const one of servers) one.close();
    servers = [];
  });
  const hashOf = (): { update(chunk: Buffer): unknown; digest(): string; length: number } => {
    const hash = createHash('sha256');
    const self = {
      length: 0,
      update: (chunk: Buffer) => {
        self.length += chunk.length;
        hash.update(chunk);
      },
      digest: () => hash.digest('hex'),
    };
    return self;
  };

  it('over a port is the same bytes both ways, and either end of a connection ends it', async () => {
    const echo = createServer({ allowHalfOpen: true }, (socket) => socket.pipe(socket));
    servers.push(echo);
    await new Promise<void>((done) => echo.listen(0, '127.0.0.1', done));
    const heard = { client: hashOf(), browser: hashOf() };
    const door = await passPort('127.0.0.1', 0, (echo.address() as AddressInfo).port, (from, _n, chunk) =>
      heard[from].update(chunk),
    );
    servers.push(door);
    const socket = connect((door.address() as AddressInfo).port, '127.0.0.1');
    const [sent, got] = [hashOf(), hashOf()];
    const back = (async () => {
      for await (const chunk of socket) got.update(chunk as Buffer);
    })();
    for (let i = 0; i < 400; i++) {
      const part = randomBytes(1 + ((i * 7919) % 60_000));
      sent.update(part);
      if (!socket.write(part)) await new Promise((done) => socket.once('drain', done));
    }
    socket.end();
    await back;
    expect(got.length).toBe(sent.length);
    expect(new Set([sent.digest(), got.digest(), heard.client.digest(), heard.browser.digest()]).size).toBe(1);
  });

  it('on standard error names our port instead of the browser’s, wherever the line is cut', async () => {
    const line = 'DevTools listening on ws://127.0.0.1:41/devtools/browser/1-a';
    const whole = `before é\nmore ${line}\nafter ${line}\n`;
    for (let cut = 1; cut < whole.length; cut += 7) {
      const through = announced((said) => Promise.resolve(said.replace(':41/', ':42/')));
      through.write(Buffer.from(whole.slice(0, cut)));
      through.end(Buffer.from(whole.slice(cut)));
      const out: Buffer[] = [];
      for await (const chunk of through) out.push(chunk as Buffer);
      expect(Buffer.concat(out).toString()).toBe(whole.replace(':41/', ':42/'));
    }
  });
});

it.each([
  ['plain', false],
  ['compressed', { threshold: 0 }],
  ['compressed anew each time', { threshold: 0, serverNoContextTakeover: true, clientNoContextTakeover: true }],
] as const)('a web socket is read beside its connection, masked frames and pieces included: %s', async (_, deflate) => {
  const http = createHttp();
  const server = new WebSocketServer({ server: http, perMessageDeflate: deflate });
  server.on('connection', (socket) => socket.on('message', (data: Buffer) => socket.send(`re ${data.toString()}`)));
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  const read: string[] = [];
  const messages = new SocketMessages(
    (path) => read.push(path),
    (from, message) => read.push(`${from} ${message.toString()}`),
  );
  // Cut into single bytes, large ones into odd pieces: whatever the network does, it is read alike.
  const door = await passPort('127.0.0.1', 0, (http.address() as AddressInfo).port, (from, _n, chunk) => {
    const size = chunk.length < 2000 ? 1 : 997;
    for (let i = 0; i < chunk.length; i += size) messages.push(from, chunk.subarray(i, i + size));
  });
  const address = `ws://127.0.0.1:${(door.address() as AddressInfo).port}/devtools/page/AB`;
  const client = new WebSocket(address, { perMessageDeflate: deflate });
  await new Promise((done) => client.once('open', done));
  for (const text of ['one', 'ü'.repeat(200), 'x'.repeat(70_000)]) {
    const back = new Promise((done) => client.once('message', done));
    client.send(text);
    await back;
    // What is compressed is read a moment later.
    for (let i = 0; i < 200 && read.at(-1) !== `browser re ${text}`; i++)
      await new Promise((done) => setTimeout(done, 5));
    expect(read.slice(-2)).toEqual([`client ${text}`, `browser re ${text}`]);
  }
  expect(read[0]).toBe('/devtools/page/AB');
  expect(client.extensions).toBe(deflate ? 'permessage-deflate' : '');
  client.terminate();
  door.close();
  server.close();
  http.close();
});

describe('input', () => {
  const joined = (events: [string, Json, number][]): JoinedAct[] => {
    const acts: JoinedAct[] = [];
    const joining = new InputJoining((act) => acts.push(act));
    for (const [method, params, at] of events) joining.take({ method: `Input.${method}`, params, at });
    joining.over(99_999);
    return acts;
  };
  const mouse = (type: string, x: number, y: number, at: number, more: Json = {}): [string, Json, number] => [
    'dispatchMouseEvent',
    { type, x, y, button: 'left', clickCount: 1, ...more },
    at,
  ];
  const of = (act: JoinedAct): unknown =>
    (act.actions[0]!.actions as Json[]).map(({ type, x, y, value }) =>
      [type, x ?? value, y].filter((one) => one !== undefined),
    );

  it('moved, down and up at one point is a press', () => {
    const acts = joined([
      mouse('mouseMoved', 10.4, 20, 0),
      mouse('mousePressed', 10.4, 20, 5),
      mouse('mouseReleased', 10.4, 20, 9),
    ]);
    expect(acts).toHaveLength(1);
    expect([acts[0]!.at, acts[0]!.until, of(acts[0]!)]).toEqual([
      0,
      9,
      [['pointerMove', 10, 20], ['pointerDown'], ['pointerUp']],
    ]);
  });

  it('down, moved and up elsewhere is a drag; moved alone is a hover', () => {
    const acts = joined([
      mouse('mousePressed', 10, 20, 5),
      mouse('mouseMoved', 60, 20, 7),
      mouse('mouseReleased', 90, 20, 9),
      mouse('mouseMoved', 200, 200, 50),
    ]);
    expect(acts.map(of)).toEqual([
      [['pointerMove', 10, 20], ['pointerDown'], ['pointerMove', 60, 20], ['pointerMove', 90, 20], ['pointerUp']],
      [['pointerMove', 200, 200]],
    ]);
  });

  it('key by key is one text, in whatever way clients send it; a long pause makes two', () => {
    const keys = (text: string, from: number): [string, Json, number][] =>
      [...text].flatMap((key, i): [string, Json, number][] => [
        ['dispatchKeyEvent', { type: 'keyDown', key, text: key }, from + i * 10],
        ['dispatchKeyEvent', { type: 'keyUp', key }, from + i * 10 + 5],
      ]);
    const typed = (acts: JoinedAct[]): string[] =>
      acts.map((act) =>
        (act.actions[0]!.actions as Json[])
          .flatMap(({ type, value }) => (type === 'keyDown' ? [value as string] : []))
          .join(''),
      );
    expect(typed(joined([...keys('Ece', 0), ...keys('m', 5000)]))).toEqual(['Ece', 'm']);
    expect(
      typed(
        joined([
          ['insertText', { text: 'Selin' }, 0],
          ['insertText', { text: ' Ak' }, 300],
        ]),
      ),
    ).toEqual(['Selin Ak']);
    // Down without a text, then the character by itself, as some send it; and a key that has none.
    expect(
      typed(
        joined([
          ['dispatchKeyEvent', { type: 'rawKeyDown', key: 'a' }, 0],
          ['dispatchKeyEvent', { type: 'char', key: 'a', text: 'a' }, 1],
          ['dispatchKeyEvent', { type: 'keyUp', key: 'a' }, 2],
          ['dispatchKeyEvent', { type: 'rawKeyDown', key: 'Enter' }, 3],
          ['dispatchKeyEvent', { type: 'keyUp', key: 'Enter' }, 4],
        ]),
      ),
    ).toEqual(['a\uE007']);
  });

  it('of any kind and order throws nothing', () => {
    const any = fc.record(
      {
        type: fc.constantFrom(
          'mouseMoved',
          'mousePressed',
          'mouseReleased',
          'mouseWheel',
          'keyDown',
          'keyUp',
          'char',
          'touchStart',
          'touchEnd',
          'x',
        ),
        x: fc.anything(),
        y: fc.anything(),
        key: fc.anything(),
        text: fc.anything(),
        button: fc.anything(),
        touchPoints: fc.anything(),
      },
      { requiredKeys: ['type'] },
    );
    const method = fc.constantFrom(
      'dispatchMouseEvent',
      'dispatchKeyEvent',
      'dispatchTouchEvent',
      'insertText',
      'other',
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(method, any)), (events) => {
        joined(events.map(([name, params], i) => [name, params as Json, i]));
      }),
    );
  });
});

describe('steps of a client', () => {
  const said = (steps: ClientStep[]): unknown[] =>
    steps.map(({ target, method, path, answer }) => [
      target,
      `${method} ${path}`,
      (JSON.parse(answer!.body.toString()) as Json).value,
    ]);
  const play = (messages: ['client' | 'browser', Json][], page?: string): { steps: ClientStep[]; busy: boolean[] } => {
    const steps: ClientStep[] = [];
    const busy: boolean[] = [];
    const client = new ClientSteps(
      {
        step: (one) => steps.push(one),
        opens: () => undefined,
        busy: (_target, is) => busy.push(is),
        begins: () => undefined,
        disposes: () => undefined,
        byItself: () => undefined,
      },
      page,
    );
    messages.forEach(([from, message], i) => client[from](Buffer.from(JSON.stringify(message)), i));
    client.end(messages.length);
    return { steps, busy };
  };
  const attached: ['browser', Json] = [
    'browser',
    { method: 'Target.attachedToTarget', params: { sessionId: 'S', targetInfo: { targetId: 'T', type: 'page' } } },
  ];

  it('belong to the target of their session, and are over with their answer', () => {
    const { steps, busy } = play([
      attached,
      ['client', { id: 1, sessionId: 'S', method: 'Page.navigate', params: { url: 'http://ferry.test/' } }],
      ['browser', { id: 1, result: { frameId: 'T' }, sessionId: 'S' }],
      ['client', { id: 1, sessionId: 'other', method: 'Page.navigate', params: { url: 'x' } }],
      [
        'client',
        {
          id: 2,
          sessionId: 'S',
          method: 'Runtime.evaluate',
          params: { expression: 'document.querySelector("#fare")' },
        },
      ],
      ['browser', { id: 2, result: { result: { type: 'object', subtype: 'null', value: null } }, sessionId: 'S' }],
      ['client', { id: 3, sessionId: 'S', method: 'Runtime.evaluate', params: { expression: 'document.title' } }],
      ['browser', { id: 3, result: { result: { type: 'string', value: 'Seats' } }, sessionId: 'S' }],
    ]);
    expect(said(steps)).toEqual([
      ['T', 'POST /url', null],
      ['T', 'POST /element', { error: 'no such element', message: 'nothing matches #fare' }],
      ['T', 'POST /execute/sync', 'Seats'],
    ]);
    expect([steps[0]!.at, steps[0]!.until]).toEqual([1, 2]);
    expect(busy).toEqual([true, false, true, false, true, false]);
  });

  it('that open a page take until it has loaded, where the client waits for that', () => {
    const { steps } = play([
      attached,
      ['client', { id: 1, sessionId: 'S', method: 'Page.navigate', params: { url: 'http://ferry.test/' } }],
      ['browser', { id: 1, result: { frameId: 'T' }, sessionId: 'S' }],
      ['browser', { method: 'Page.loadEventFired', params: { timestamp: 1 }, sessionId: 'S' }],
      ['client', { id: 2, sessionId: 'S', method: 'Runtime.enable' }],
    ]);
    expect(steps.map(({ path, at, until }) => [path, at, until])).toEqual([['/url', 1, 3]]);
  });

  it('of a connection to one page need no session; one that is not answered is told at the end', () => {
    const { steps } = play([['client', { id: 1, method: 'Page.reload', params: {} }]], 'P');
    expect(steps).toMatchObject([{ target: 'P', path: '/refresh', answer: undefined, until: 1 }]);
  });

  it('end input that came before them', () => {
    const { steps } = play([
      attached,
      ['client', { id: 1, sessionId: 'S', method: 'Input.insertText', params: { text: 'Ece' } }],
      ['client', { id: 2, sessionId: 'S', method: 'Page.reload', params: {} }],
      ['browser', { id: 2, result: {}, sessionId: 'S' }],
    ]);
    expect(steps.map(({ path }) => path)).toEqual(['/actions', '/refresh']);
  });

  it('are told before their isolated context is over, also what was open in it', () => {
    const told: string[] = [];
    const client = new ClientSteps({
      step: ({ path }) => told.push(path),
      opens: () => undefined,
      busy: () => undefined,
      begins: () => undefined,
      byItself: () => undefined,
      disposes: (context, at) => told.push(`over: ${context} at ${at}`),
    });
    const targetInfo = { targetId: 'T', type: 'page', browserContextId: 'C' };
    const say = (from: 'client' | 'browser', message: Json): void =>
      client[from](Buffer.from(JSON.stringify(message)), 1);
    say('browser', { method: 'Target.attachedToTarget', params: { sessionId: 'S', targetInfo } });
    say('client', { id: 1, sessionId: 'S', method: 'Page.navigate', params: { url: 'http://ferry.test/' } });
    say('browser', { id: 1, result: { frameId: 'T' }, sessionId: 'S' });
    say('client', { id: 2, sessionId: 'S', method: 'Input.dispatchKeyEvent', params: { type: 'keyDown', key: 'a' } });
    say('client', { id: 3, method: 'Target.disposeBrowserContext', params: { browserContextId: 'C' } });
    client.passes(1_000_000);
    expect(told).toEqual(['/url', '/actions', 'over: C at 1']);
  });

  it('are read of any bytes without a throw', () => {
    const any = fc.oneof(
      fc.json().map((text) => Buffer.from(text)),
      fc.uint8Array().map((bytes) => Buffer.from(bytes)),
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom('client' as const, 'browser' as const), any)), (messages) => {
        const client = new ClientSteps(
          {
            step: () => undefined,
            opens: () => undefined,
            busy: () => undefined,
            begins: () => undefined,
            disposes: () => undefined,
            byItself: () => undefined,
          },
          'P',
        );
        for (const [from, bytes] of messages) client[from](bytes, 0);
        client.end(1);
      }),
    );
  });

  it.each([
    ['Runtime.evaluate', { expression: 'x'.repeat(30_000) }],
    ['Runtime.enable', {}],
    ['DOM.querySelector', { selector: '' }],
  ])('are not what %s is', (method, params) => {
    expect(saidByWebDriver(method, params)).toBeUndefined();
  });

  it('take what was thrown for what it is, and quotes in selectors as they are meant', () => {
    const thrown = saidByWebDriver('Runtime.callFunctionOn', {
      functionDeclaration: '() => boom()',
      arguments: [{ value: 3 }, { unserializableValue: 'NaN' }],
    })!;
    expect(thrown.body).toEqual({ script: 'return (() => boom()).apply(null, arguments)', args: [3, 'NaN'] });
    expect(
      thrown.answer({ exceptionDetails: { text: 'Uncaught', exception: { description: 'Error: boom' } } }),
    ).toEqual({ error: 'javascript error', message: 'Error: boom' });
    const quoted = saidByWebDriver('Runtime.evaluate', {
      expression: String.raw`document.querySelectorAll('[name=\'a\']')`,
    })!;
    expect(quoted).toMatchObject({ path: '/elements', body: { value: "[name='a']" } });
    expect(quoted.answer({ result: { objectId: '7', description: 'NodeList(2)' } })).toHaveLength(2);
  });
});

describe('a spool', () => {
  const folders: string[] = [];
  const spool = (): string => {
    const folder = mkdtempSync(join(tmpdir(), 'iskel-spool-'));
    folders.push(folder);
    return folder;
  };
  afterEach(() => {
    for (const one of folders.splice(0)) rmSync(one, { recursive: true, force: true });
  });
  const environment = { browser: 'chromium', version: '156' };
  const record = async (sink: SpoolSink, end = true): Promise<string> => {
    const id = sink.newId();
    sink.begin(id, { run: 'r', test: { title: 'holds a seat' } }, environment, 1_790_000_000_000);
    const blob = await sink.keep(Buffer.from('<p>page</p>'));
    sink.write(id, [
      {
        id: 'e1',
        lane: 'page',
        kind: 'structure',
        at: 5,
        clock: 'page',
        data: { blob, address: 'http://ferry.test/', count: 1 },
      },
    ]);
    if (end) sink.end(id, 40);
    return id;
  };

  it('gives a pack of what ended, and of what its killed recorder left, with a cut line left out', async () => {
    const folder = spool();
    const sink = new SpoolSink(folder, 'http://ferry.test');
    const whole = await record(sink);
    const open = await record(sink, false);
    sink.write(open, [{ ...step(7, 9, { action: 'open' }), id: 'e2' }]);
    const idle = await record(sink, false);
    expect(readyIn(folder).map(({ id }) => id)).toEqual([whole]);
    const pack = readPack(readyIn(folder)[0]!.pack());
    expect(pack.attempt).toMatchObject({ run: { name: 'r' }, outcome: 'unreported', durationMs: 40 });
    expect([...pack.blobs.values()].map(({ mime }) => mime)).toEqual(['text/html']);

    // The same, as a recorder that no longer runs left it: no process has this number.
    const left = join(folder, 'b-999999999-00');
    const { cpSync, appendFileSync } = await import('node:fs');
    cpSync(join(folder, readdirSync(folder)[0]!), left, { recursive: true });
    const cut = readdirSync(left).find((name) => name === open)!;
    appendFileSync(join(left, cut, 'events.jsonl'), '{"id":"e3","lane":"pa');
    const ready = readyIn(folder);
    const found = ready.find(({ id }) => id === cut)!;
    // Nothing had been done in this one: no test was there.
    expect(ready.map(({ id }) => id)).not.toContain(idle);
    expect(readdirSync(left)).not.toContain(idle);
    const broken = readPack(found.pack());
    expect(broken.attempt).toMatchObject({ durationMs: 9, interruptedBy: 'its recorder was killed' });
    expect(broken.events.map(({ id }) => id)).toEqual(['e1', 'e2']);
  });

  it('keeps what nobody takes in, says why, and asks a silent server once', async () => {
    const folder = spool();
    const sink = new SpoolSink(folder, 'http://127.0.0.1:1');
    await record(sink);
    await record(sink);
    const result = await deliver(folder);
    expect(result.delivered).toBe(0);
    expect(result.left.map(({ why }) => why)).toEqual(
      Array(2).fill(expect.stringContaining('no Iskel answers at http://127.0.0.1:1')),
    );
    expect(readyIn(folder)).toHaveLength(2);
  });

  it('says what went wrong, within bounds', () => {
    const folder = spool();
    const sink = new SpoolSink(folder, 'http://ferry.test');
    for (let i = 0; i < 20; i++) sink.trouble(`${i} ${'x'.repeat(10_000)}`);
    const lines = readFileSync(join(folder, 'troubles.log'), 'utf8').split('\n');
    expect(lines[0]).toMatch(/^\d{4}-\d\d-\d\dT\S+ 0 x/);
    expect(lines.length).toBeLessThan(8);
    expect(readyIn(folder)).toEqual([]);
  });

  it('is read with anything else in it, and forgets what was no test', async () => {
    const folder = spool();
    writeFileSync(join(folder, 'b-1'), 'no folder');
    writeFileSync(join(folder, 'note.txt'), '');
    const sink = new SpoolSink(folder, 'http://127.0.0.1:1');
    sink.forget(await record(sink));
    sink.close();
    expect(readyIn(folder)).toEqual([]);
    expect(readyIn(join(folder, 'none'))).toEqual([]);
    expect(readdirSync(folder).filter((name) => name.startsWith('b-') && name !== 'b-1')).toEqual([]);
  });
});
