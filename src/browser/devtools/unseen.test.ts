import { describe, expect, it } from 'vitest';
import { marked, Unseen } from './unseen.ts';

/** What is there only because of us is not told to the client of a shared pipe; all else is, byte by byte. */

type Json = Record<string, unknown>;
const info = (targetId: string, attached: boolean, title = 'Fares'): Json => ({
  targetId,
  type: 'page',
  title,
  attached,
});

function told() {
  const unseen = new Unseen('ours');
  return (message: Json): Json[] | undefined =>
    unseen
      .shown(Buffer.from(JSON.stringify(message)))
      ?.toString()
      .split('\0')
      .map((one) => JSON.parse(one) as Json);
}

describe('what a client is told', () => {
  it('is what the browser wrote, where nothing is ours', () => {
    const unseen = new Unseen('ours');
    for (const text of [
      '{"method":"Page.loadEventFired","params":{"timestamp":1.50}}',
      '{"id":4,"result":{"targetInfos":[{"targetId":"A","title":"say \\"attached\\":true","attached":false}]}}',
      '{"method":"Debugger.scriptParsed","params":{"scriptId":"7","url":"https://ferry.test/a.js"}}',
      '{"method":"Runtime.executionContextCreated","params":{"context":{"id":3,"name":"theirs"}}}',
      'no JSON at all',
    ])
      expect(unseen.shown(Buffer.from(text))?.toString()).toBe(text);
  });

  it('leaves out our scripts, our world and what of them was covered', () => {
    const tell = told();
    expect(tell({ method: 'Debugger.scriptParsed', params: { scriptId: '8', url: 'ours' } })).toBeUndefined();
    const world = (id: number, name: string): Json => ({
      method: 'Runtime.executionContextCreated',
      params: { context: { id, origin: '', name } },
      sessionId: 'S1',
    });
    expect(tell(world(4, 'iskel'))).toBeUndefined();
    expect(tell(world(5, ''))).toHaveLength(1);
    const gone = (id: number): Json => ({
      method: 'Runtime.executionContextDestroyed',
      params: { executionContextId: id },
      sessionId: 'S1',
    });
    expect(tell(gone(4))).toBeUndefined();
    expect(tell(gone(5))).toHaveLength(1);
    const covered = (...urls: string[]): Json => ({
      id: 9,
      result: { result: urls.map((url) => ({ scriptId: '1', url })) },
    });
    expect(tell(covered('a.js', 'ours', 'b.js'))).toEqual([covered('a.js', 'b.js')]);
  });

  it('a target that only we are attached to is attached to by nobody, until the client is', () => {
    const tell = told();
    const list = (attached: boolean): Json => ({
      id: 1,
      result: { targetInfos: [info('A', attached), info('B', false)] },
    });
    const changed = (attached: boolean, title?: string): Json => ({
      method: 'Target.targetInfoChanged',
      params: { targetInfo: info('A', attached, title) },
    });
    expect(tell({ method: 'Target.targetCreated', params: { targetInfo: info('A', true) } })).toEqual([
      { method: 'Target.targetCreated', params: { targetInfo: info('A', false) } },
    ]);
    // It changed because we came, which is no change to the client.
    expect(tell(changed(true))).toBeUndefined();
    expect(tell(changed(true, 'Seats'))).toEqual([changed(false, 'Seats')]);
    expect(tell(list(true))).toEqual([list(false)]);
    const attaches = {
      method: 'Target.attachedToTarget',
      params: { sessionId: 'S9', targetInfo: info('A', true, 'Seats') },
    };
    expect(tell(attaches)).toEqual([changed(true, 'Seats'), attaches]);
    expect(tell(list(true))).toEqual([list(true)]);
    const detaches = { method: 'Target.detachedFromTarget', params: { sessionId: 'S9', targetId: 'A' } };
    expect(tell(detaches)).toEqual([detaches, changed(false, 'Seats')]);
    expect(tell(list(true))).toEqual([list(false)]);
  });

  it('our sources bear a name, and what brings none stays as it is', () => {
    expect(marked({ id: 1, method: 'Runtime.evaluate', params: { expression: '1' } }, 'ours').params).toEqual({
      expression: '1\n//# sourceURL=ours\n',
    });
    const plain = { id: 1, method: 'Page.enable' };
    expect(marked(plain, 'ours')).toBe(plain);
  });
});
