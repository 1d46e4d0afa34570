import { createHash, randomBytes } from 'node:crypto';
import { PassThrough } from 'node:stream';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NulMessages } from './nul-messages.ts';
import { PipeDoor } from './pipe-door.ts';
import { SharedPipe } from './shared-pipe.ts';

/** One pipe, two who use it: what a client says and is told is as if it were alone. */

type Json = Record<string, unknown>;
const root = 'A'.repeat(32);

/** A pipe with a browser at one end that is played here, and a client at the other. */
function played() {
  const [toBrowser, fromBrowser, commands, answers] = [0, 0, 0, 0].map(() => new PassThrough()) as PassThrough[];
  const ours: string[] = [];
  const heard: [string, Buffer][] = [];
  const shared = new SharedPipe(
    { commands: toBrowser!, answers: fromBrowser! },
    (from, _n, chunk) => heard.push([from, chunk]),
    (message) => ours.push(message.toString()),
    'ours',
  );
  return {
    toBrowser: toBrowser!,
    fromBrowser: fromBrowser!,
    commands: commands!,
    answers: answers!,
    shared,
    ours,
    heard,
  };
}
const soon = (): Promise<void> => new Promise((done) => setImmediate(done));
const attached = (session: string, by?: string): string =>
  JSON.stringify({
    method: 'Target.attachedToTarget',
    params: { sessionId: session, targetInfo: { targetId: 'T', type: 'browser' } },
    ...(by ? { sessionId: by } : {}),
  });
const hash = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');

describe('a pipe that is shared', () => {
  it('hands the client all that is its own, and us what is ours, however the stream is cut', async () => {
    const anyMessage = fc.oneof(
      fc.record({ ours: fc.constant(true), id: fc.option(fc.nat(1000)), text: fc.string({ maxLength: 200 }) }),
      fc.record({ ours: fc.constant(false), id: fc.option(fc.nat(1000)), text: fc.string({ maxLength: 200 }) }),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(anyMessage, { maxLength: 30 }),
        fc.array(fc.integer({ min: 1, max: 90 }), { maxLength: 40 }),
        async (list, cuts) => {
          const { fromBrowser, answers, commands, shared, ours } = played();
          const texts = list.map(({ ours: mine, id, text }, i) =>
            JSON.stringify({
              ...(id === null
                ? { method: 'Page.told', params: { text, sessionId: root } }
                : { id: mine ? 1_600_000_000 + id : id, result: { text } }),
              ...(mine ? { sessionId: root } : i % 2 ? { sessionId: 'B'.repeat(32) } : {}),
            }),
          );
          const got: Buffer[] = [];
          answers.on('data', (chunk: Buffer) => got.push(chunk));
          shared.join({ commands, answers });
          let stream = Buffer.from([attached(root), ...texts].map((one) => `${one}\0`).join(''));
          for (const cut of cuts) {
            fromBrowser.write(stream.subarray(0, cut));
            stream = stream.subarray(cut);
          }
          fromBrowser.end(stream);
          await new Promise((done) => answers.once('end', done));
          expect(Buffer.concat(got).toString()).toBe(
            texts
              .filter((_, i) => !list[i]!.ours)
              .map((one) => `${one}\0`)
              .join(''),
          );
          expect(ours).toEqual([attached(root), ...texts.filter((_, i) => list[i]!.ours)]);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('is the same bytes both ways, ten thousand messages and a large one, however slowly they are taken', async () => {
    const { toBrowser, fromBrowser, commands, answers, shared, heard } = played();
    shared.join({ commands, answers });
    const write = async (to: PassThrough): Promise<Buffer> => {
      const all: Buffer[] = [];
      for (let i = 0; i < 10_000; i++) {
        const filling = i === 5000 ? randomBytes(24 * 1024 * 1024).toString('hex') : '';
        all.push(Buffer.from(`{"id":${i},"method":"Page.x","params":{"x":"${filling}"}}\0`));
        if (!to.write(all.at(-1))) await new Promise((done) => to.once('drain', done));
      }
      to.end();
      return Buffer.concat(all);
    };
    const read = async (from: PassThrough): Promise<Buffer> => {
      const all: Buffer[] = [];
      for await (const chunk of from) if (all.push(chunk as Buffer) % 7 === 0) await soon();
      return Buffer.concat(all);
    };
    const [said, told, toThem, toUs] = await Promise.all([
      write(commands),
      write(fromBrowser),
      read(toBrowser),
      read(answers),
    ]);
    const first = toThem.indexOf(0) + 1;
    expect(JSON.parse(toThem.subarray(0, first - 1).toString())).toMatchObject({
      method: 'Target.attachToBrowserTarget',
    });
    expect(hash(toThem.subarray(first))).toBe(hash(said));
    expect(hash(toUs)).toBe(hash(told));
    const tapped = (side: string): Buffer =>
      Buffer.concat(heard.flatMap(([from, chunk]) => (from === side ? [chunk] : [])));
    expect(hash(tapped('client'))).toBe(hash(said));
    expect(hash(tapped('browser'))).toBe(hash(told));
  });

  it('says nothing of ours within a command of the client’s', async () => {
    const { toBrowser, commands, answers, shared } = played();
    let said = '';
    toBrowser.on('data', (chunk: Buffer) => (said += chunk.toString()));
    shared.join({ commands, answers });
    commands.write('{"id":1,"meth');
    await soon();
    shared.send('{"id":1600000001}');
    await soon();
    expect(said.split('\0').at(-1)).toBe('{"id":1,"meth');
    commands.write('od":"Page.enable"}\0');
    await soon();
    expect(said.split('\0').slice(1)).toEqual(['{"id":1,"method":"Page.enable"}', '{"id":1600000001}', '']);
  });
});

it('a door in a shared pipe gives lines of their own: numbers, sessions and ends', async () => {
  const { toBrowser, fromBrowser, commands, answers } = (() => {
    const [a, b, c, d] = [0, 0, 0, 0].map(() => new PassThrough()) as PassThrough[];
    return { toBrowser: a!, fromBrowser: b!, commands: c!, answers: d! };
  })();
  // A browser that begins a session for whoever asks, and says back what it was asked.
  let count = 0;
  const tell = (message: Json): void => void fromBrowser.write(`${JSON.stringify(message)}\0`);
  const reads = new NulMessages((message) => {
    const { id, method, params, sessionId } = JSON.parse(message!.toString()) as Json & { params: Json };
    const by = sessionId ? { sessionId } : {};
    if (/attachTo/.test(String(method))) {
      const session = String(++count).repeat(32);
      tell({ method: 'Target.attachedToTarget', params: { sessionId: session, targetInfo: {} }, ...by });
      return tell({ id, result: { sessionId: session }, ...by });
    }
    tell({ id, result: method === 'Browser.getVersion' ? { product: 'Chrome/1.2' } : { asked: method }, ...by });
    if (method === 'Target.detachFromTarget')
      tell({ method: 'Target.detachedFromTarget', params: { sessionId: params.sessionId }, ...by });
  });
  toBrowser.on('data', (chunk: Buffer) => reads.push(chunk));
  const door: PipeDoor = new PipeDoor((command) => shared.send(command), 'ours');
  const shared = new SharedPipe(
    { commands: toBrowser, answers: fromBrowser },
    () => undefined,
    (one) => door.hear(one),
    'ours',
  );
  let toClient = '';
  answers.on('data', (chunk: Buffer) => (toClient += chunk.toString()));
  shared.join({ commands, answers });
  expect(await door.version()).toBe('Chrome/1.2');
  const heard: Json[] = [];
  let closed = 0;
  const listener = {
    heard: (one: Buffer) => void heard.push(JSON.parse(one.toString()) as Json),
    closed: () => void closed++,
  };
  const line = await door.browser(listener);
  const page = await door.page('T', { heard: (one) => listener.heard(one) });
  line.send({ id: 7, method: 'Target.attachToTarget', params: {} });
  page.send({ id: 7, method: 'Page.enable' });
  commands.write('{"id":7,"method":"Page.own"}\0');
  for (let i = 0; i < 20 && heard.length < 3; i++) await soon();
  const begun = (heard[0]!.params as Json).sessionId;
  expect(heard).toEqual([
    { method: 'Target.attachedToTarget', params: { sessionId: begun, targetInfo: {} } },
    { id: 7, result: { sessionId: begun } },
    { id: 7, result: { asked: 'Page.enable' } },
  ]);
  // What a line began is heard over it, and still says whose it is.
  line.send({ id: 8, method: 'Page.enable', sessionId: String(begun) });
  for (let i = 0; i < 20 && heard.length < 4; i++) await soon();
  expect(heard[3]).toEqual({ id: 8, result: { asked: 'Page.enable' }, sessionId: begun });
  expect(toClient).toBe('{"id":7,"result":{"asked":"Page.own"}}\0');
  line.close();
  expect([line.open, page.open, closed]).toEqual([false, true, 1]);
  door.end();
  expect(page.open).toBe(false);
  await expect(door.version()).rejects.toThrow('gone');
});
