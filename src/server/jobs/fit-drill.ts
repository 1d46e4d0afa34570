import { parseDrill } from '../../core/drill/parse.ts';
import type { Drill } from '../../core/drill/drill.ts';
import { fitFor, fitted, type Ended, type Fit } from '../../core/drill/sooner.ts';
import { eventsOf } from '../../core/evidence/event.ts';
import type { Series } from '../../core/records.ts';
import type { Verdict } from '../../core/trials/tally.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';

/** Trials that do what the test does, one after the other, before a search begins; they are its first. */
const enough = 3;
/** A drill that needs more than this is another test. */
const mostFits = 5;

export interface FitWork {
  store: Store;
  series: Series;
  drill: Drill;
  /** Plays a trial of a drill as it is. */
  play(number: number, drill: Drill): Promise<{ id: string | undefined; verdict: Verdict }>;
  stopped(): boolean;
}

/**
 * Plays a drill as it is before anything is searched with it: where it fails otherwise than what it was made of, since it
 * came sooner than its test ever did, it waits there from now on. Its text, and that of the series, say so.
 * @returns the drill that does what the test does, as far as trials can show
 */
export async function fitDrill({ store, series, drill, play, stopped }: FitWork): Promise<Drill> {
  let now = drill;
  const before = store.trials.of(series.id);
  let number = before.length;
  let fits = before.filter(({ phase }) => phase === 'fitting').length;
  let good = before.length - fits;
  while (good < enough && !stopped()) {
    const { id, verdict } = await play(++number, now);
    const fit = verdict === 'other' && id && fits < mostFits ? fitOf(store, now, id) : undefined;
    if (!fit) {
      good++;
      continue;
    }
    const changed = await keep(store, series, number, fit);
    if (!changed) return now;
    now = changed;
    fits++;
    // What was played before it was another drill.
    good = 0;
    await patiently(() => store.trials.allFitting(series.id));
  }
  return now;
}

function fitOf(store: Store, drill: Drill, id: string): Fit | undefined {
  const trial = store.attempts.get(id);
  const line = Number(/\(drill:(\d+):\d+\)/.exec(trial?.stack ?? '')?.[1]);
  if (!trial || !line) return undefined;
  const checks = eventsOf(store.events.page(id, { lane: ['note'], limit: 1000 }).events, 'note').filter(
    ({ kind, data }) => kind === 'check' && data.ok === false,
  );
  const actual = checks.at(-1)?.data.actual;
  const ended: Ended = {
    line,
    absent: /no such element/i.test(trial.message),
    ...(typeof actual === 'string' ? { actual } : {}),
  };
  return fitFor(drill, ended);
}

/** Puts a fit into the text that the series plays and into the drill, where nobody has changed that meanwhile. */
async function keep(store: Store, { id, drillId }: Series, number: number, fit: Fit): Promise<Drill | undefined> {
  const played = store.drills.series(id)?.text ?? '';
  const text = fitted(played, fit);
  const { drill } = parseDrill(text);
  if (!drill) return undefined;
  await patiently(() => {
    store.together(() => {
      store.drills.setSeriesText(id, text);
      const kept = store.drills.get(drillId);
      if (kept?.text === played) store.drills.change(drillId, text, kept.title);
      store.trials.fitting(id, number, fit.words);
    });
  });
  return drill;
}
