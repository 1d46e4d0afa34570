import { standInPath } from '../browser/devtools/stand-in-path.ts';
import { serveStatic } from '@hono/node-server/serve-static';
import { Hono } from 'hono';
import { existsSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { againRoutes } from './api/again.ts';
import { attemptRoutes } from './api/attempts.ts';
import { adviceRoutes } from './api/advice.ts';
import { contrastRoutes } from './api/contrast.ts';
import type { Services } from './api/context.ts';
import { deliveryRoutes } from './api/deliveries.ts';
import { drillRoutes } from './api/drills.ts';
import { exportRoutes } from './api/exports.ts';
import { handOverRoutes } from './api/hand-over.ts';
import { familyRoutes } from './api/families.ts';
import { fileRoutes } from './api/files.ts';
import { findRoutes } from './api/find.ts';
import { intakeRoutes } from './api/intake.ts';
import { patient } from './api/patient.ts';
import { placeView } from './api/places.ts';
import { Problem } from './api/problem.ts';
import { Unconfirmed } from './jobs/drill-permits.ts';
import { isBusy } from './store/patience.ts';
import { ruleRoutes } from './api/rules.ts';
import { historyRoutes } from './api/history.ts';
import { traceRoutes } from './api/traces.ts';
import { outlookRoutes } from './api/outlook.ts';
import { keepingRoutes } from './api/keeping.ts';
import { mendingRoutes } from './api/mendings.ts';
import { proofRoutes } from './api/proofs.ts';
import { runRoutes } from './api/runs.ts';
import { seriesRoutes } from './api/series.ts';
import { streamedRoutes } from './api/streamed.ts';
import { streamRoutes } from './api/stream.ts';

/** Nothing is fetched from elsewhere, nothing runs but our own script, nobody frames us. */
const policy =
  "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'";

/** The JSON API and the pages. */
export function makeApp(services: Services, web: string): Hono {
  const app = new Hono();

  app.use(async (c, next) => {
    await next();
    c.header('x-content-type-options', 'nosniff');
    c.header('referrer-policy', 'no-referrer');
    c.header('content-security-policy', policy);
    c.header('cross-origin-resource-policy', 'same-origin');
  });

  app.get('/api/health', (c) =>
    c.json({
      ok: true,
      version: services.version,
      engines: services.places.local.map(({ name, version }) => ({ name, version })),
      places: services.places.all.map(placeView),
      standIn: standInPath,
      faults: services.faults(),
      spool: services.spooled.view(),
    }),
  );
  for (const routes of [
    runRoutes,
    attemptRoutes,
    adviceRoutes,
    proofRoutes,
    mendingRoutes,
    againRoutes,
    contrastRoutes,
    familyRoutes,
    drillRoutes,
    seriesRoutes,
    streamRoutes,
    streamedRoutes,
    fileRoutes,
    findRoutes,
    exportRoutes,
    handOverRoutes,
    ruleRoutes,
    keepingRoutes,
    historyRoutes,
    outlookRoutes,
    traceRoutes,
  ])
    app.route('/api', patient(routes(services)));
  app.route('/api', intakeRoutes(services) as unknown as Hono);
  app.route('/api', deliveryRoutes(services) as unknown as Hono);
  app.all('/api/*', (c) =>
    c.json(
      {
        error: {
          code: 'no-such-call',
          message: `there is no ${c.req.method} ${c.req.path}; docs/openapi.json lists every call`,
        },
      },
      404,
    ),
  );

  if (existsSync(join(web, 'index.html'))) {
    const root = relative(process.cwd(), web);
    app.use(
      '/assets/*',
      serveStatic({ root, onFound: (_path, c) => c.header('cache-control', 'public, max-age=31536000, immutable') }),
    );
    app.get('/assets/*', (c) => c.notFound());
    app.get('*', (c) => c.html(readFileSync(join(web, 'index.html'), 'utf8')));
  } else {
    app.get('*', (c) => c.text('The pages are not built yet; run: npm run build', 503));
  }

  app.onError((error, c) => {
    if (error instanceof Problem) return c.json({ error: { code: error.code, message: error.message } }, error.status);
    if (error instanceof Unconfirmed)
      return c.json({ error: { code: 'confirm-first', message: error.message, drill: error.drill } }, 409);
    if (isBusy(error))
      return c.json(
        { error: { code: 'busy', message: 'another program kept the database; nothing was changed, try again' } },
        503,
      );
    services.log.error({ problem: error.stack }, 'a call failed');
    return c.json(
      { error: { code: 'internal', message: 'Iskel failed at this; nothing was changed. The server log says more.' } },
      500,
    );
  });
  return app;
}
