import { Hono } from 'hono';
import Joi from 'joi';
import { parseDrill } from '../../core/drill/parse.ts';
import { details, type Detail, type SearchOrder } from '../../core/records.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Places } from '../../browser/places.ts';
import { cannotStress } from '../../browser/stress/can.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';
import { viewOfSeries } from './series-view.ts';
import { searchFields, stressorsShape } from './stressors.ts';

interface SeriesBody {
  drillId: string;
  engine: string;
  trials?: number;
  stressors: Stressor[];
  untilFails: boolean;
  detail: Detail;
  search?: SearchOrder;
}

const seriesShape = Joi.object<SeriesBody>({
  drillId: Joi.string().required(),
  engine: Joi.string().max(500).default('chromium'),
  trials: Joi.number().integer().min(1).max(1000),
  stressors: stressorsShape,
  untilFails: Joi.boolean().default(false),
  detail: Joi.string()
    .valid(...details)
    .default('standard'),
  search: Joi.object(searchFields),
}).xor('trials', 'search');

/** Series that wait for each other. */
export const mostWaiting = 50;

/** Series of trials: started, watched, stopped. */
export function seriesRoutes({ store, series, places }: Services): Hono {
  const app = new Hono();

  app.post('/series', async (c) => {
    const { drillId, engine, trials, stressors, untilFails, detail, search } = await bodyAs(c, seriesShape);
    const { text } = found(store.drills.get(drillId), 'drill', drillId);
    canPlay(places, engine, stressors);
    for (const one of stressors)
      if (one.kind === 'drill-before' && one.drill)
        refuseFaulty(found(store.drills.get(one.drill), 'drill', one.drill).text);
    refuseFaulty(text);
    if (series.waiting >= mostWaiting)
      throw new Problem(429, 'too-many', `${mostWaiting} series wait for their turn already; stop some of them`);
    return c.json(
      {
        id: series.start({
          drillId,
          engine,
          trials: trials ?? search!.budget.trials,
          stressors,
          untilFails,
          detail,
          ...(search ? { search } : {}),
        }).id,
      },
      202,
    );
  });

  app.get('/series/:id', (c) => {
    const id = c.req.param('id');
    return c.json(found(viewOfSeries(store, id), 'series', id));
  });

  app.delete('/series/:id', (c) => {
    const id = c.req.param('id');
    found(store.drills.series(id), 'series', id);
    series.stop(id);
    return c.json(viewOfSeries(store, id)!);
  });

  return app;
}

/** Refuses places that are not there, are down, or cannot do what is asked. @throws Problem */
export function canPlay(places: Places, engine: string, stressors: readonly Stressor[]): void {
  for (const name of engine.split(',')) {
    const place = places.named(name);
    if (!place) throw new Problem(409, 'no-engine', places.noSuch(name));
    const { ok, message } = place.health();
    if (!ok) throw new Problem(409, 'place-down', `${place.name}: ${message}`);
    const lacking = cannotStress(place.name, place.abilities, stressors);
    if (lacking) throw new Problem(409, 'cannot-stress', `${lacking}; leave it out, or choose another place`);
  }
}

/** @throws Problem where a drill’s text cannot be played */
export function refuseFaulty(text: string): void {
  const [first] = parseDrill(text).errors;
  if (first)
    throw new Problem(
      409,
      'faulty-drill',
      `line ${first.line} of the drill: ${first.message}; mend it and start again`,
    );
}
