import { Hono } from 'hono';
import Joi from 'joi';
import type { Again, SeriesState } from '../../core/records.ts';
import type { Store } from '../store/store.ts';
import type { Services } from './context.ts';
import { keptDrillOf } from './drills.ts';
import { bodyAs, found, notFound, Problem, queryNumber } from './problem.ts';
import { canPlay, mostWaiting } from './series.ts';
import { viewOfSeries } from './series-view.ts';

interface AgainBody {
  tests: string[];
  by: string;
  times: number;
  untilFails: boolean;
  engine: string;
  run?: string;
}

const shape = Joi.object<AgainBody>({
  tests: Joi.array().items(Joi.string().max(100)).min(1).max(5000).unique().required(),
  by: Joi.string().max(100).default('drills'),
  times: Joi.number().integer().min(1).max(1000).default(1),
  untilFails: Joi.boolean().default(false),
  engine: Joi.string().max(500).default('chromium'),
  run: Joi.string().max(100),
});

/** Tests run again: by their drills, or by a test command of the team's own. */
export function againRoutes({ store, agains, series, places, changes }: Services): Hono {
  const app = new Hono();

  app.get('/commands', (c) =>
    c.json({
      commands: agains.commands.map(({ name, program, args, folder, reports, minutes }) => ({
        name,
        words: [program, ...args].join(' '),
        folder,
        reports,
        minutes,
      })),
    }),
  );

  app.get('/again', (c) => c.json({ again: store.agains.newest().map((one) => viewOfAgain(store, one)) }));

  app.post('/again', async (c) => {
    const { tests, by, times, untilFails, engine, run } = await bodyAs(c, shape);
    const known = store.agains.testNames(tests);
    const missing = known.length < tests.length && tests.find((id) => !known.some((one) => one.id === id));
    if (missing) throw notFound('test', missing);
    if (by !== 'drills') {
      if (!agains.commands.some(({ name }) => name === by))
        throw new Problem(
          409,
          'no-command',
          `the settings file names no test command “${by}”; it has ${agains.commands.map(({ name }) => `“${name}”`).join(', ') || 'none'}`,
        );
      const after = (run && store.runs.get(run)?.name) || known[0]!.title;
      try {
        return c.json({ id: agains.start({ command: by, tests, times, untilFails, after }).id }, 202);
      } catch (error) {
        if (error instanceof RangeError) throw new Problem(413, 'too-many', error.message);
        throw error;
      }
    }
    canPlay(places, engine, []);
    const playable = store.agains.attemptsToPlay(tests);
    if (playable.length === 0)
      throw new Problem(
        409,
        'nothing-recorded',
        'none of these tests was recorded, so there is no drill of them; run them by a test command of your own',
      );
    if (series.waiting + playable.length > mostWaiting)
      throw new Problem(
        429,
        'too-many',
        `${mostWaiting} series can wait for their turn; ${series.waiting} do already. Choose fewer tests`,
      );
    const ids = playable.map(({ attempt }) => {
      const drillId = keptDrillOf({ store, changes }, attempt).id;
      return series.start({ drillId, engine, trials: times, stressors: [], untilFails }).id;
    });
    const again = store.agains.add({ command: null, runId: null, tests, times, untilFails, series: ids });
    return c.json({ id: again.id }, 202);
  });

  app.get('/again/:id', (c) => {
    const id = c.req.param('id');
    return c.json(viewOfAgain(store, found(store.agains.get(id), 'repetition', id)));
  });

  app.get('/again/:id/output', (c) => {
    const id = c.req.param('id');
    found(store.agains.get(id), 'repetition', id);
    return c.json(store.agains.output(id, queryNumber(c, 'after', { min: 0, max: 1e12, whole: true }) ?? 0));
  });

  app.delete('/again/:id', (c) => {
    const id = c.req.param('id');
    const again = found(store.agains.get(id), 'repetition', id);
    if (again.command) agains.stop(id);
    else for (const one of again.series) series.stop(one);
    return c.json(viewOfAgain(store, store.agains.get(id)!));
  });

  return app;
}

function viewOfAgain(store: Store, again: Again): object {
  const tests = store.agains.testNames(again.tests);
  if (again.command) return { ...again, tests, series: [] };
  const series = again.series.flatMap((id) => viewOfSeries(store, id) ?? []);
  return { ...again, state: stateOf(series.map(({ state }) => state)), tests, series };
}

/** All of them as one. */
function stateOf(states: readonly SeriesState[]): SeriesState {
  if (states.includes('running')) return 'running';
  if (states.includes('waiting')) return states.every((one) => one === 'waiting') ? 'waiting' : 'running';
  return states.find((one) => one === 'failed') ?? states.find((one) => one === 'stopped') ?? 'done';
}
