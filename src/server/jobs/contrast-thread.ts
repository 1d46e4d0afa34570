import { workerData } from 'node:worker_threads';
import { contrastView, type ContrastView } from '../../core/contrast/view.ts';
import { sketchOf } from '../../core/contrast/sketch.ts';
import { prepare } from '../../core/evidence/prepare.ts';
import { advise } from '../../core/remedies/advise.ts';
import { remediesOf } from '../../core/remedies/remedy.ts';
import type { Told } from '../../core/remedies/told.ts';
import { Store } from '../store/store.ts';
import { answering } from './answering.ts';
import type { AdviceOn, Question } from './contrasts.ts';
import { drillOfAttempt } from './drill-of-attempt.ts';

// Holds attempts against each other off the server's thread: hundreds of them take a second.
const store = new Store((workerData as { home: string }).home, 'thread');

answering((question: Question): ContrastView | AdviceOn | null => {
  if (question.about === 'contrast') {
    const [failed, passed] = [store.sketches.of(question.failing), store.sketches.of(question.passing)];
    return failed.length ? contrastView(failed, passed) : null;
  }
  const [subject] = told([question.subject]);
  if (!subject) return { advice: [], remedies: [] };
  const advice = advise({
    subject,
    suspects: store.attempts.suspects(question.subject).filter(({ cause }) => !question.cleared.includes(cause)),
    failing: told(question.failing),
    passing: told(question.passing),
    markup: (blob) => store.blobs.text(blob),
  });
  const made = drillOfAttempt(store, store.attempts.get(subject.id)!);
  return { advice: advice.map(({ change: _, ...one }) => one), remedies: made ? remediesOf(advice, made) : [] };
});

/** Attempts with their evidence; one that is gone is left out. */
function told(ids: readonly string[]): Told[] {
  return ids.flatMap((id) => {
    const attempt = store.attempts.get(id);
    if (!attempt) return [];
    const { outcome, message, stack, environment, startedAt } = attempt;
    const commit = store.runs.get(attempt.runId)?.commit;
    const evidence = prepare(store.events.recorded(id), {
      outcome,
      message,
      stack,
      environment,
      file: attempt.test.file,
      rules: store.rules.frames(),
      thresholds: store.rules.get().thresholds,
    });
    return [{ id, evidence, sketch: sketchOf(evidence, { id, startedAt, ...(commit ? { commit } : {}) }) }];
  });
}
