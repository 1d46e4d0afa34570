import { WebSocket } from 'ws';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import type { EvidenceEvent, StepEvent } from '../src/core/evidence/event.ts';
import { eventually, json, ready, startServerProcess, type ServerProcess } from './helpers.ts';

/** Clients that speak BiDi: what they say is recorded as steps, and passes as it is; a session may be begun over its socket alone. */

let server: ServerProcess;
let site: FerrySite;
beforeAll(async () => {
  [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);
});
afterAll(async () => {
  await server.stop();
  await site.close();
});

interface Told {
  id: number | null;
  type: string;
  result: Record<string, unknown>;
  error?: string;
  message?: string;
}

/** A client of ours: sends commands and hears their answers. */
class Client {
  private readonly socket: WebSocket;
  private readonly waiting = new Map<number, (told: Told) => void>();
  private count = 0;
  private constructor(address: string) {
    this.socket = new WebSocket(address);
    this.socket.on('message', (data: Buffer) => {
      const told = JSON.parse(data.toString()) as Told;
      if (told.id !== null) this.waiting.get(told.id)?.(told);
    });
  }
  static async open(address: string): Promise<Client> {
    const client = new Client(address);
    await new Promise((done, fail) => client.socket.once('open', done).once('error', fail));
    return client;
  }
  say(method: string, params: object = {}): Promise<Told> {
    const id = ++this.count;
    const answer = new Promise<Told>((done) => this.waiting.set(id, done));
    this.socket.send(JSON.stringify({ id, method, params }));
    return answer;
  }
  async get<T>(method: string, params: object = {}): Promise<T> {
    const told = await this.say(method, params);
    if (told.type !== 'success') throw new Error(`${method}: ${told.error}: ${told.message}`);
    return told.result as T;
  }
  get closed(): Promise<unknown> {
    return new Promise((done) => this.socket.once('close', done));
  }
  close(): void {
    this.socket.close();
  }
}

const stepsOf = async (id: string): Promise<StepEvent[]> => {
  const { events } = (
    await json<{ events: EvidenceEvent[] }>('GET', `${server.address}/api/attempts/${id}/events?limit=5000`)
  ).body;
  return events.filter((one): one is StepEvent => one.lane === 'step' && one.kind === 'command');
};
const css = (value: string) => ({ type: 'css', value });
interface Node {
  sharedId: string;
}

describe('a session over its socket alone', () => {
  it('is begun, recorded as steps, drilled, and ended by its own commands', async () => {
    const client = await Client.open(`${server.address.replace('http', 'ws')}/wd/session`);
    // Before there is a session nothing else is answered, and what is no command is refused.
    expect(await client.say('browsingContext.getTree')).toMatchObject({ type: 'error', error: 'invalid session id' });
    expect(await client.get('session.status')).toMatchObject({ ready: true });
    const attempt = { run: 'by socket', test: { suite: 'sailings', title: 'shows the sailings by BiDi' } };
    const { sessionId, capabilities } = await client.get<{ sessionId: string; capabilities: Record<string, unknown> }>(
      'session.new',
      { capabilities: { alwaysMatch: { browserName: 'chromium', 'iskel:attempt': attempt } } },
    );
    const { id } = capabilities['iskel:attempt'] as { id: string };
    const { contexts } = await client.get<{ contexts: { context: string }[] }>('browsingContext.getTree');
    const { context } = contexts[0]!;
    await client.get('browsingContext.navigate', { context, url: `${site.address}/`, wait: 'complete' });
    const locate = async (selector: string): Promise<Node[]> =>
      (
        await client.get<{ nodes: Node[] }>('browsingContext.locateNodes', {
          context,
          locator: css(selector),
          maxNodeCount: 1,
        })
      ).nodes;
    expect(await locate('#nothing-of-the-kind')).toEqual([]);
    const [heading] = await locate('h1');
    const read = await client.get<{ result: { value: string } }>('script.callFunction', {
      functionDeclaration: '(element) => element.textContent',
      awaitPromise: false,
      target: { context },
      arguments: [{ sharedId: heading!.sharedId }],
    });
    expect(read.result.value.length).toBeGreaterThan(3);
    const [link] = await locate('a[href*="sailings"]');
    const origin = { type: 'element', element: { sharedId: link!.sharedId } };
    await client.get('input.performActions', {
      context,
      actions: [
        {
          type: 'pointer',
          id: 'mouse',
          actions: [
            { type: 'pointerMove', x: 0, y: 0, origin },
            { type: 'pointerDown', button: 0 },
            { type: 'pointerUp', button: 0 },
          ],
        },
      ],
    });
    const here = { expression: 'location.pathname', awaitPromise: false, target: { context } };
    await eventually(
      async () => ((await client.say('script.evaluate', here)).result?.result as { value: string } | undefined)?.value,
      (path) => path?.startsWith('/sailings') === true,
    );
    await client.get('browsingContext.captureScreenshot', { context });
    // What the browser refuses it refuses in its own words.
    expect(await client.say('browsingContext.navigate', { context: 'none', url: site.address })).toMatchObject({
      type: 'error',
      error: 'no such frame',
    });
    const told = await json('POST', `${server.address}/wd/session/${sessionId}/iskel/outcome`, { status: 'passed' });
    expect(told.status).toBe(200);
    const closed = client.closed;
    expect(await client.get('session.end')).toEqual({});
    await closed;

    expect(await ready(server.address, id)).toMatchObject({ outcome: 'passed', test: { title: attempt.test.title } });
    const steps = await stepsOf(id);
    const actions = steps.map(({ data }) => data.action);
    // The address was asked for as often as it took.
    const until = actions.indexOf('picture');
    expect([...actions.slice(0, 6), ...actions.slice(until)]).toEqual([
      'open',
      'find',
      'find',
      'read',
      'find',
      'keys',
      'picture',
      'open',
    ]);
    expect(new Set(actions.slice(6, until))).toEqual(new Set(['script']));
    expect(steps[1]!.data.error?.code).toBe('no such element');
    expect(steps[2]!.data.locator).toEqual({ using: 'css selector', value: 'h1' });
    expect(steps[3]!.data.result).toBe(read.result.value);
    expect(steps.at(-1)!.data.error?.code).toBe('no such frame');
    const made = await json<{ text: string }>('POST', `${server.address}/api/drills`, { attemptId: id });
    // A client that was slower between the two holds the link under a name first.
    const named = 'css "a[href*=\\"sailings\\"]"';
    const lines = made.body.text.split('\n');
    const held = lines.find((line) => line.startsWith('find ') && line.endsWith(` = ${named}`))?.split(' ')[1];
    expect(lines.map((line) => line.replace(/^click /, 'press '))).toContain(`press ${held ?? named}`);
  }, 60_000);

  it('says why it cannot be begun, and may be tried again; a client that goes away is an interruption', async () => {
    const client = await Client.open(`${server.address.replace('http', 'ws')}/wd/session`);
    const bad = await client.say('session.new', { capabilities: { alwaysMatch: { browserName: 'netscape' } } });
    expect(bad).toMatchObject({ type: 'error', error: 'session not created' });
    const { capabilities } = await client.get<{ capabilities: Record<string, unknown> }>('session.new', {
      capabilities: { alwaysMatch: { browserName: 'chromium' } },
    });
    client.close();
    const attempt = await ready(server.address, (capabilities['iskel:attempt'] as { id: string }).id);
    expect(attempt).toMatchObject({ outcome: 'interrupted' });
  }, 60_000);
});

describe('a socket beside the commands', () => {
  it('has its commands recorded among the others', async () => {
    const { body } = await json<{
      value: { sessionId: string; capabilities: { webSocketUrl: string; 'iskel:attempt': { id: string } } };
    }>('POST', `${server.address}/wd/session`, {
      capabilities: { alwaysMatch: { browserName: 'chromium', webSocketUrl: true } },
    });
    const { sessionId, capabilities } = body.value;
    const client = await Client.open(capabilities.webSocketUrl);
    const { contexts } = await client.get<{ contexts: { context: string }[] }>('browsingContext.getTree');
    const { context } = contexts[0]!;
    await client.get('browsingContext.navigate', { context, url: `${site.address}/`, wait: 'complete' });
    await json('GET', `${server.address}/wd/session/${sessionId}/title`);
    const second = await client.get<{ context: string }>('browsingContext.create', { type: 'tab' });
    await client.get('browsingContext.navigate', {
      context: second.context,
      url: `${site.address}/sailings/l-2130`,
      wait: 'complete',
    });
    await client.get('script.evaluate', {
      expression: '({ seats: document.links.length, of: [new Date(0), null] })',
      awaitPromise: false,
      target: { context },
    });
    client.close();
    await json('DELETE', `${server.address}/wd/session/${sessionId}`);
    await ready(server.address, capabilities['iskel:attempt'].id);
    const steps = await stepsOf(capabilities['iskel:attempt'].id);
    expect(steps.map(({ data }) => data.command)).toEqual([
      'navigate to',
      'get title',
      'new window',
      'switch to window',
      'navigate to',
      'switch to window',
      'execute script',
    ]);
    expect(steps[5]!.data.handle).toBe(context);
    expect(steps[6]!.data.result).toMatchObject({ of: ['1970-01-01T00:00:00.000Z', null] });
  }, 60_000);
});
