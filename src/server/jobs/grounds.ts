import { causeNames } from '../../core/causes/cause.ts';
import { requestKey } from '../../core/contrast/sketch.ts';
import type { Drill } from '../../core/drill/drill.ts';
import { isOrnament } from '../../core/clues/relevance.ts';
import type { Grounds, KnownRequest } from '../../core/trials/arms.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';

/** Suspects less likely than this suggest nothing. */
const leastLikely = 0.03;
const mostSuspects = 4;
/** So many passing attempts show which requests the test makes. */
const mostPassing = 2;

/** What is known of a drill's failure before anything is tried: from the attempt it was made of, and from those that pass. */
export function groundsOf(store: Store, stored: StoredDrill, drill: Drill): Omit<Grounds, 'can' | 'now'> {
  const attempt = stored.attemptId ? store.attempts.get(stored.attemptId) : undefined;
  if (!attempt) return { drill, suspects: [], sources: [], requests: [] };
  const keys = new Map<string, string>();
  const requests = new Map<string, KnownRequest>();
  const others = store.attempts.passingOf(attempt.test.id, mostPassing);
  for (const id of [attempt.id, ...others])
    for (const event of store.events.recorded(id)) {
      if (event.lane !== 'network') continue;
      const key = requestKey(event);
      if (id === attempt.id) keys.set(event.id, key);
      const { own, type = '' } = event.data;
      if (!isOrnament(type) || !own) requests.set(key, requests.get(key) ?? { key, own, type });
    }
  const suspects = store.attempts
    .suspects(attempt.id)
    .filter(({ probability, for: pro }) => probability >= leastLikely && pro.length > 0)
    .slice(0, mostSuspects)
    .map(({ cause, probability, for: pro }) => ({
      cause,
      name: causeNames[cause],
      probability,
      requests: [...new Set(pro.flatMap(({ evidence }) => evidence.flatMap((id) => keys.get(id) ?? [])))],
    }));
  const { width, height } = attempt.environment;
  return {
    drill,
    suspects,
    sources: (store.attempts.why(attempt.id)?.waitsFor ?? [])
      .filter(({ kind }) => kind !== 'act')
      .map(({ key }) => key),
    requests: [...requests.values()],
    ...(width && height ? { window: { width, height } } : {}),
  };
}
