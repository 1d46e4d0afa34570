import { Hono } from 'hono';
import { wordsOfEvent } from '../../core/evidence/find-words.ts';
import type { Lane } from '../../core/evidence/event.ts';
import { findColumns, questionOf, type FindColumn } from '../store/find.ts';
import type { Services } from './context.ts';
import { Problem } from './problem.ts';

const lanesOf: Record<Exclude<FindColumn, 'message'>, readonly Lane[]> = {
  console: ['console'],
  request: ['network', 'body'],
  step: ['step'],
  note: ['note'],
};
/** The part of a long text that holds the first word. */
function around(text: string, word: string): string {
  const at = text.toLowerCase().indexOf(word);
  const from = at < 200 ? 0 : at - 100;
  return `${from ? '… ' : ''}${text.slice(from, from + 300)}`;
}

const perGroup = 12;
/** Moments shown of one attempt. */
const perAttempt = 3;

/** Words, codes, addresses to attempts and moments. */
export function findRoutes({ store }: Services): Hono {
  const app = new Hono();
  app.get('/find', (c) => {
    const words = (c.req.query('words') ?? '').slice(0, 300);
    const question = questionOf(words);
    if (!question) throw new Problem(400, 'no-words', 'give at least one word or number as “words”');
    const terms = words.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];
    const has = (text: string): boolean => {
      const lower = text.toLowerCase();
      return terms.every((term) => lower.includes(term));
    };
    const groups = findColumns.map((column) => {
      const hits = store.find.attempts(column, question, perGroup + 1).flatMap((id) => {
        const attempt = store.attempts.get(id);
        if (!attempt) return [];
        const about = {
          attemptId: id,
          title: attempt.test.title,
          suite: attempt.test.suite,
          outcome: attempt.outcome,
          environment: attempt.environment.key,
          startedAt: attempt.startedAt,
        };
        if (column === 'message')
          return [
            {
              ...about,
              moments: [
                { at: attempt.failure?.at ?? null, text: attempt.failure?.sentence || attempt.message.slice(0, 300) },
              ],
            },
          ];
        const moments = store.events
          .search(id, lanesOf[column], (event) => has(wordsOfEvent(event)), perAttempt)
          .map((event) => ({ at: store.events.shownAt(id, event), text: around(wordsOfEvent(event), terms[0] ?? '') }));
        return [{ ...about, moments }];
      });
      return { kind: column, more: hits.length > perGroup, hits: hits.slice(0, perGroup) };
    });
    const tests = store.find.tests(question, perGroup + 1);
    const latest = tests.slice(0, perGroup).map((test) => ({ ...test, ...store.attempts.latestOf(test.id) }));
    const notes = store.find.notes(words, perGroup);
    return c.json({ tests: latest, moreTests: tests.length > perGroup, groups, notes });
  });
  return app;
}
