import { Hono } from 'hono';
import Joi from 'joi';
import type { Drill } from '../../core/drill/drill.ts';
import { isConfirmed, type Confirmed } from '../../core/drill/reach.ts';
import { asksFor, mayBeTyped } from '../jobs/drill-permits.ts';
import { parseDrill } from '../../core/drill/parse.ts';
import { printDrill } from '../../core/drill/print.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';
import { keepFilesOf } from '../jobs/drill-files.ts';
import { drillOfAttempt } from '../jobs/drill-of-attempt.ts';
import { remedyOf } from './advice.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';

const drillShape = Joi.object<{ attemptId?: string; text?: string; remedy?: string }>({
  attemptId: Joi.string().max(100),
  text: Joi.string().max(1_000_000),
  remedy: Joi.string().max(100),
})
  .xor('attemptId', 'text')
  .with('remedy', 'attemptId');
const texts = Joi.array().items(Joi.string().max(4000)).max(1000).default([]);
const confirmShape = Joi.object<Confirmed>({ hosts: texts, secrets: texts, files: texts }).unknown(true);
const textShape = Joi.object<{ text: string }>({ text: Joi.string().max(1_000_000).required() });

/** Drills: made from an attempt or from a text, changed, checked. */
export function drillRoutes(services: Services): Hono {
  const { store, changes } = services;
  const app = new Hono();

  app.get('/drills', (c) =>
    c.json({
      drills: store.drills.newest().map((drill) => ({ ...drill, series: store.drills.seriesOf(drill.id).length })),
    }),
  );

  app.get('/drills/:id', (c) => {
    const id = c.req.param('id');
    const drill = found(store.drills.get(id), 'drill', id);
    const attempt = drill.attemptId ? store.attempts.get(drill.attemptId) : undefined;
    const family = attempt?.familyId ? store.families.get(attempt.familyId) : undefined;
    return c.json({
      ...drill,
      files: store.drillFiles.of(id),
      asks: asksFor(drill) ?? null,
      attempt: attempt ?? null,
      family: family ?? null,
      series: store.drills.seriesOf(id).map((one) => store.drills.brief(one)),
    });
  });

  app.post('/drills', async (c) => {
    const { attemptId, text, remedy } = await bodyAs(c, drillShape);
    const made = remedy
      ? (await remedyOf(services, attemptId!, remedy)).drill
      : attemptId
        ? textOf(store, attemptId)
        : text!;
    const { drill, errors } = parseDrill(made);
    if (!drill) return c.json({ errors }, 422);
    const stored = keep(services, made, drill, attemptId ?? null);
    return c.json({ id: stored.id, text: stored.text }, 201);
  });

  // What a person has looked at: exactly what the drill asks for now.
  app.post('/drills/:id/confirm', async (c) => {
    const id = c.req.param('id');
    const stored = found(store.drills.get(id), 'drill', id);
    const told = await bodyAs(c, confirmShape);
    const asks = asksFor(stored);
    if (!asks) throw new Problem(409, 'nothing-to-allow', 'this drill asks for nothing that has to be allowed');
    if (!isConfirmed(asks, told))
      throw new Problem(409, 'changed', 'the drill asks for something else by now; look at it again and allow that');
    const { drillFiles } = services.settings.local;
    const elsewhere = asks.files.find((path) => !mayBeTyped(path, drillFiles));
    if (elsewhere !== undefined)
      throw new Problem(
        422,
        'file-elsewhere',
        `${elsewhere} is in none of the folders that the settings file names under “drillFiles”; name its folder there and start Iskel again, or take the line out of the drill`,
      );
    store.drills.confirm(id, { hosts: asks.hosts, secrets: asks.secrets, files: asks.files });
    keepFilesOf(store, id, parseDrill(stored.text).drill!);
    changes.tell({ type: 'drill', id });
    return c.json({ id, confirmed: store.drills.get(id)!.confirmed });
  });

  app.put('/drills/:id', async (c) => {
    const id = c.req.param('id');
    const { fromOutside } = found(store.drills.get(id), 'drill', id);
    const { text } = await bodyAs(c, textShape);
    const { drill, errors } = parseDrill(text);
    if (!drill) return c.json({ errors }, 422);
    store.drills.change(id, text, drill.title);
    if (!fromOutside) keepFilesOf(store, id, drill);
    changes.tell({ type: 'drill', id });
    return c.json({ id, text });
  });

  /** Tells the faults of a text without keeping it: what the editor asks as one types. */
  app.post('/drills/check', async (c) => {
    const { text } = await bodyAs(c, textShape);
    return c.json({ errors: parseDrill(text).errors });
  });

  return app;
}

/** The text of the drill that does what an attempt did. @throws Problem where it cannot be replayed */
function textOf(store: Store, id: string): string {
  const attempt = found(store.attempts.get(id), 'attempt', id);
  if (attempt.state === 'recording')
    throw new Problem(409, 'still-recording', 'this attempt is still being recorded; make the drill once it has ended');
  const made = drillOfAttempt(store, attempt);
  if (!made)
    throw new Problem(
      422,
      'no-steps',
      'no commands were recorded in this attempt, so there is nothing to replay; record it through the address ending in /wd',
    );
  return printDrill(made.drill, [`from attempt ${attempt.id}, ${attempt.outcome}`, ...made.remarks]);
}

/** The drill of an attempt, made and kept. @throws Problem where there is none to be made */
export function keptDrillOf({ store, changes }: Keeping, attemptId: string): StoredDrill {
  const text = textOf(store, attemptId);
  const { drill } = parseDrill(text);
  if (!drill) throw new Problem(500, 'faulty-drill', 'the drill that was made cannot be read');
  return keep({ store, changes }, text, drill, attemptId);
}

type Keeping = Pick<Services, 'store' | 'changes'>;

/** Keeps a drill with the files it types, and tells of it. */
function keep({ store, changes }: Keeping, text: string, drill: Drill, attemptId: string | null): StoredDrill {
  const stored = store.drills.add(text, drill.title, attemptId);
  // Of a drill from outside no file of this machine is read before somebody has allowed it.
  if (!stored.fromOutside) keepFilesOf(store, stored.id, drill);
  changes.tell({ type: 'drill', id: stored.id });
  return stored;
}
