// Judges recorded attempts anew, by the same function as the server, in the data folder they lie in.
import type { Analysis } from '../../src/core/analyse.ts';
import { priorsOf } from '../../src/core/causes/learning.ts';
import { analyseStored, toJudge } from '../../src/server/ingest/analyse-stored.ts';
import { Store } from '../../src/server/store/store.ts';
import type { Labelled, RecordedSite } from './recorded.ts';

/** Nothing was confirmed by anybody. */
const nobody = priorsOf([], 0);

export interface Judged {
  label: Labelled;
  analysis: Analysis;
}

/**
 * Judges all attempts of a site, those that passed first.
 * @param alone as if no passing attempt of the same test were known
 */
export async function judged({ data, attempts }: RecordedSite, alone = false): Promise<Judged[]> {
  const store = new Store(data);
  const labels = new Map(attempts.map((one) => [one.id, one]));
  const all = store.db.prepare("SELECT id FROM attempts WHERE state = 'ready'").pluck().all() as string[];
  const out: Judged[] = [];
  const shelves = alone ? { ...store, db: store.db, sketches: withoutPassing(store) } : store;
  const order = store.attempts.judgingOrder(all);
  // Those that failed are judged again once all are known, as the server does while more come.
  const again = order.filter((id) => store.attempts.get(id)?.outcome !== 'passed');
  for (const [i, id] of [...order, ...(alone ? [] : again)].entries()) {
    const attempt = store.attempts.get(id)!;
    const commit = store.runs.get(attempt.runId)?.commit;
    const { analysis, words } = await analyseStored(shelves, toJudge(attempt, commit, store.rules.get()), nobody);
    if (!alone) store.together(() => store.settle(id, analysis, words));
    const label = labels.get(id);
    const last = alone || i >= order.length || !again.includes(id);
    if (label && last) out.push({ label, analysis });
  }
  store.close();
  return out;
}

function withoutPassing(store: Store): Store['sketches'] {
  return new Proxy(store.sketches, {
    get: (target, key) => (key === 'baseline' ? () => [] : (Reflect.get(target, key) as unknown)),
  });
}
