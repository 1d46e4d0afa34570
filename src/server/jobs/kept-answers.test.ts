import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { exchange } from '../../core/evidence/samples.ts';
import { Store } from '../store/store.ts';
import { differingAnswers, keptAnswers } from './kept-answers.ts';

/** Which answers of a failing attempt may be what made it fail. */

let home: string;
let store: Store;
const recorded = new Map<string, EvidenceEvent[]>();
beforeAll(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-answers-'));
  store = new Store(home);
});
afterAll(() => {
  store.close();
  rmSync(home, { recursive: true, force: true });
});

let count = 0;
/** An attempt that asked for some things, with what they were answered. */
function attempt(asked: readonly [path: string, body: string | null, type?: string, method?: string][]): string {
  const runId = store.runs.named('answers', 1);
  const id = store.attempts.begin({
    runId,
    test: { suite: 'fleet', title: 'opens' },
    environment: { browser: 'chromium', version: '156' },
    startedAt: ++count,
  });
  const events = asked.flatMap(([path, text, type = 'fetch', method = 'GET'], i): EvidenceEvent[] => {
    const one = exchange(10 * i, 10 * i + 5, {
      url: `http://lodos.example${path}`,
      type,
      method,
      own: true,
      status: text === null ? 204 : 200,
    });
    if (text === null) return [one];
    const data = { exchange: one.id, of: 'response' as const, mime: 'application/json', text, length: text.length };
    return [one, { id: `b${i}`, lane: 'body', kind: 'body', at: 10 * i + 6, clock: 'recorder', data }];
  });
  store.events.write(id, events);
  recorded.set(id, store.events.recorded(id));
  return id;
}
const differing = (failing: string, passing: string[]): string[] =>
  differingAnswers(store, failing, passing, (id) => recorded.get(id)!, []).map(({ key }) => key);

describe('an answer that may have made it fail', () => {
  const usual = (): string =>
    attempt([
      ['/api/boats', '["Lodos"]'],
      ['/api/boats/12', '"Lodos"'],
    ]);

  it('differs from all that passing attempts got, and can be given again', () => {
    const failing = attempt([
      ['/api/boats', '["Poyraz","Lodos"]'],
      ['/api/boats/12', '"Lodos"'],
    ]);
    expect(differing(failing, [usual(), usual()])).toEqual(['GET /api/boats']);
    const [one] = differingAnswers(store, failing, [usual()], (id) => recorded.get(id)!, []);
    expect(keptAnswers(store)(one!.attempt, one!.exchange)).toEqual({
      status: 200,
      mime: 'application/json',
      body: '["Poyraz","Lodos"]',
    });
  });

  it('may have become another one only when it was asked for again', () => {
    const failing = attempt([
      ['/api/boats', '["Lodos"]'],
      ['/api/boats', '["Poyraz"]'],
      ['/api/boats', '["Poyraz","Lodos"]'],
    ]);
    const [one] = differingAnswers(store, failing, [usual()], (id) => recorded.get(id)!, []);
    expect(one).toMatchObject({ key: 'GET /api/boats', from: 2 });
    expect(keptAnswers(store)(one!.attempt, one!.exchange)?.body).toBe('["Poyraz","Lodos"]');
  });

  it('is none of what was asked for because it had gone wrong by then', () => {
    const failing = attempt([
      ['/api/boats', '["Lodos"]'],
      ['/api/boats/17', '"Poyraz"'],
    ]);
    expect(differing(failing, [usual(), usual()])).toEqual([]);
  });

  it('may be one that few passing attempts got, an empty one among them', () => {
    const none = (): string => attempt([['/visitors/survey', null]]);
    const asked = (): string => attempt([['/visitors/survey', '{"show":true}']]);
    expect(differing(asked(), [none(), none(), asked()])).toEqual(['GET /visitors/survey']);
    expect(differing(asked(), [none(), asked()])).toEqual([]);
    const [one] = differingAnswers(store, none(), [asked(), asked()], (id) => recorded.get(id)!, []);
    expect(one).toMatchObject({ how: 'new' });
    expect(keptAnswers(store)(one!.attempt, one!.exchange)).toEqual({ status: 204, body: '' });
  });

  it('may be a page that differs from visit to visit: each of its answers by itself, after those that tell more', () => {
    let drawn = 0;
    const visit = (boats: string): string =>
      attempt([
        ['/fleet', `<p>${++drawn}</p>`, 'document'],
        ['/api/boats', boats],
        ['/fleet?sort=name', `<p>${++drawn}</p>`, 'document'],
        ['/boat.css', `/* ${++drawn} */`, 'stylesheet'],
      ]);
    const passing = [visit('["Lodos"]'), visit('["Lodos"]'), visit('["Lodos"]')];
    const all = differingAnswers(store, visit('["Poyraz"]'), passing, (id) => recorded.get(id)!, []);
    expect(all.map(({ key, from, how }) => `${key} ${from} ${how}`)).toEqual([
      'GET /api/boats 1 new',
      'GET /fleet 2 varies',
      'GET /fleet 1 varies',
    ]);
  });

  it('is no page that shows what came of what the test sent', () => {
    const visit = (first: string, ordered: string): string =>
      attempt([
        ['/fleet', first, 'document'],
        ['/orders', '', 'document', 'POST'],
        ['/orders', ordered, 'document'],
      ]);
    const usual = [visit('<p>Lodos</p>', '<p>Lodos ordered</p>'), visit('<p>Lodos</p>', '<p>Lodos ordered</p>')];
    expect(differing(visit('<p>Poyraz</p>', '<p>Poyraz ordered</p>'), usual)).toEqual(['GET /fleet']);
  });
});
