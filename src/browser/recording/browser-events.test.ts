import { beforeEach, describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { browserEvents, type BrowserEventTeller } from './browser-events.ts';
import type { AttemptRecorder } from './recorder.ts';

let told: EvidenceEvent[];
let teller: BrowserEventTeller;
const recorder = {
  add: (event: EvidenceEvent) => told.push(event),
  newId: () => 'e1',
  isOwn: (host: string) => host === 'ferry.test',
} as unknown as AttemptRecorder;
const tell = (method: string, params: object, heard = now()): void => teller.tell(method, params as never, heard);

beforeEach(() => {
  told = [];
  teller = browserEvents(() => recorder);
});

const now = (): number => performance.timeOrigin + performance.now();
describe('the rest', () => {
  it('console lines keep their level, exceptions their stack', () => {
    tell('log.entryAdded', { level: 'warn', text: 'slow', timestamp: 5, type: 'console', source: { context: 'c' } });
    tell('log.entryAdded', {
      level: 'error',
      text: 'Error: x',
      timestamp: 6,
      type: 'javascript',
      stackTrace: { callFrames: [{ url: 'http://ferry.test/a.js', lineNumber: 4, columnNumber: 1, functionName: '' }] },
    });
    expect(told[0]).toMatchObject({ kind: 'line', data: { level: 'warning', text: 'slow' } });
    expect(told[1]).toMatchObject({
      kind: 'exception',
      data: {
        level: 'error',
        uncaught: true,
        source: 'http://ferry.test/a.js:5',
        stack: '    at anonymous (http://ferry.test/a.js:5:2)',
      },
    });
  });

  it('an exception of the scripts that are put into pages is none of the page’s', () => {
    const thrown = (url: string, text = 'TypeError: w[id] is not a function'): void =>
      tell('log.entryAdded', {
        level: 'error',
        text,
        timestamp: 6,
        type: 'javascript',
        stackTrace: { callFrames: [{ url, lineNumber: 41, columnNumber: 21, functionName: '' }] },
      });
    thrown('');
    thrown('http://ferry.test/a.js');
    thrown('', 'TypeError: seats is not a function');
    expect(told.map((event) => 'source' in event.data && event.data.source)).toEqual([
      'http://ferry.test/a.js:42',
      ':42',
    ]);
  });

  it('only top-level contexts are windows', () => {
    tell('browsingContext.contextCreated', { context: 'a', parent: null, url: 'about:blank' });
    tell('browsingContext.contextCreated', { context: 'b', parent: 'a', url: 'about:blank' });
    expect(told.map((event) => event.kind)).toEqual(['opened']);
  });

  it('dialogs open with their text and close with what became of them', () => {
    tell('browsingContext.userPromptOpened', { context: 'a', type: 'confirm', message: 'sure?' });
    tell('browsingContext.userPromptClosed', { context: 'a', type: 'confirm', accepted: false });
    expect(told.map((event) => (event.lane === 'window' ? event.data.text : ''))).toEqual(['sure?', 'dismissed']);
  });

  it('navigations carry address and time', () => {
    tell('browsingContext.load', { context: 'a', timestamp: 9, url: 'http://ferry.test/' });
    expect(told[0]).toMatchObject({ lane: 'page', kind: 'loaded', at: 9, data: { address: 'http://ferry.test/' } });
  });
});
