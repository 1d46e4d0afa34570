import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { causeNames } from '../../core/causes/cause.ts';
import { requestKey } from '../../core/contrast/sketch.ts';
import type { Drill } from '../../core/drill/drill.ts';
import { isOrnament } from '../../core/clues/relevance.ts';
import type { Grounds, KnownRequest } from '../../core/trials/arms.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';
import { differingAnswers } from './kept-answers.ts';

/** Suspects less likely than this suggest nothing. */
const leastLikely = 0.03;
const mostSuspects = 4;
/** So many passing attempts show which requests the test makes. */
const mostPassing = 3;

/** What is known of a drill's failure before anything is tried: from the attempt it was made of, and from those that pass. */
export function groundsOf(store: Store, stored: StoredDrill, drill: Drill): Omit<Grounds, 'can' | 'now'> {
  const attempt = stored.attemptId ? store.attempts.get(stored.attemptId) : undefined;
  if (!attempt) return { drill, suspects: [], sources: [], requests: [] };
  const keys = new Map<string, string>();
  const requests = new Map<string, KnownRequest>();
  const others = store.attempts.passingOf(attempt.test.id, mostPassing);
  const took = { failing: new Map<string, Took>(), passing: new Map<string, Took>() };
  const recorded = new Map([attempt.id, ...others].map((id) => [id, store.events.recorded(id)]));
  for (const [id, events] of recorded)
    for (const event of events) {
      if (event.lane !== 'network') continue;
      const key = requestKey(event);
      if (id === attempt.id) keys.set(event.id, key);
      if (event.data.own) longest(id === attempt.id ? took.failing : took.passing, key, event);
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
  const sources = (store.attempts.why(attempt.id)?.waitsFor ?? [])
    .filter(({ kind }) => kind !== 'act')
    .map(({ key }) => key);
  return {
    drill,
    suspects,
    sources,
    answers: differingAnswers(store, attempt.id, others, (id) => recorded.get(id)!, sources),
    requests: [...requests.values()],
    slowed: slowedOf(took.failing, took.passing),
    ...(width && height ? { window: { width, height } } : {}),
  };
}

interface Took {
  ms: number;
  /** When it had answered, on its attempt’s clock. */
  at: number;
}

/** A request is slow against the longest it took elsewhere: by so much, and so many times. */
const slower = { byMs: 300, times: 3 } as const;
const mostSlowed = 4;

function longest(all: Map<string, Took>, key: string, event: EvidenceEvent): void {
  const at = event.until ?? event.at;
  const ms = at - event.at;
  if (ms >= (all.get(key)?.ms ?? 0)) all.set(key, { ms, at });
}

function slowedOf(
  failing: ReadonlyMap<string, Took>,
  passing: ReadonlyMap<string, Took>,
): NonNullable<Grounds['slowed']> {
  return [...failing]
    .flatMap(([key, { ms, at }]) => {
      const usually = passing.get(key)?.ms;
      if (usually === undefined || ms < usually + slower.byMs || ms < usually * slower.times) return [];
      return [{ key, took: ms, usually, at }];
    })
    .sort((a, b) => b.at - a.at)
    .slice(0, mostSlowed)
    .map(({ key, took, usually }) => ({ key, took, usually }));
}
