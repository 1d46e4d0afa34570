import { serve, type ServerType } from '@hono/node-server';
import { Hono, type Context } from 'hono';
import { getCookie, setCookie } from 'hono/cookie';
import { randomBytes } from 'node:crypto';
import { seeded } from '../../src/core/stats/seeded.ts';
import { sleep, type Handler, type Mechanism, type Meeting } from './mechanism.ts';
import { noiseOf, withNoise, type Noise } from './noise.ts';

interface Visit extends Meeting {
  id: string;
  /** What happens in it and means nothing. */
  noise: Noise;
  /** When it parted from a visit that is not hurt, by the site's clock; absent when it did not, or not yet. */
  partedAt?: number;
}

export interface YardSite {
  address: string;
  /** The next visit draws from this seed, and hurts or does not. Returns that visit once it has come. */
  next(mechanism: Mechanism, seed: number, hurts: boolean): { visit(): Visit | undefined };
  close(): Promise<void>;
}

/** Serves every mechanism's pages on one origin, and its outside services on another. */
export async function startYard(mechanisms: readonly Mechanism[], port = 0): Promise<YardSite> {
  const visits = new Map<string, Visit>();
  const kept = new Map(mechanisms.map(({ id }) => [id, new Map<string, unknown>()]));
  let planned: { mechanism: Mechanism; seed: number; hurts: boolean; came?: Visit } | undefined;
  const outside = await open(new Hono(), port ? port + 1 : 0);

  const begin = (mechanism: Mechanism): Visit => {
    const plan = planned?.mechanism === mechanism && !planned.came ? planned : undefined;
    const seed = plan?.seed ?? visits.size;
    const random = seeded(seed * 7919);
    const visit: Visit = {
      id: randomBytes(8).toString('hex'),
      hurts: plan?.hurts ?? false,
      draw: (low, high) => Math.round(low + random() * (high - low)),
      parted: (afterMs = 0) => {
        if (visit.hurts) visit.partedAt ??= Date.now() + afterMs;
      },
      noise: noiseOf(seed + nameNumber(mechanism.id)),
      kept: kept.get(mechanism.id)!,
      outside: outside.address,
    };
    visits.set(visit.id, visit);
    if (plan) plan.came = visit;
    return visit;
  };
  const app = new Hono();
  for (const mechanism of mechanisms) {
    for (const [route, handler] of Object.entries(mechanism.site ?? {})) {
      const [method, path] = route.split(' ') as [string, string];
      app.on(method, path, async (c) => {
        let visit = visits.get(getCookie(c, 'visit') ?? '');
        if (!visit) {
          visit = begin(mechanism);
          setCookie(c, 'visit', visit.id, { httpOnly: true, path: '/' });
        }
        return answer(handler, visit, c);
      });
    }
    for (const [route, handler] of Object.entries(mechanism.outside ?? {})) {
      const [method, path] = route.split(' ') as [string, string];
      // An outside service sees no cookie of the shop's; it does to the visit that is under way what was planned.
      outside.app.on(method, path, async (c) => {
        c.header('access-control-allow-origin', '*');
        return answer(handler, planned?.came ?? begin(mechanism), c);
      });
    }
  }
  // Where the noise of the pages asks.
  const after = (c: Context): Promise<void> => sleep(Math.min(5000, Number(c.req.query('after')) || 0));
  app.get('/news', async (c) => {
    await after(c);
    return c.json({ text: 'Ferries run to the winter timetable.' });
  });
  outside.app.get('/counter', async (c) => {
    await after(c);
    c.header('access-control-allow-origin', '*');
    return c.body(null, c.req.query('status') === '503' ? 503 : 204);
  });
  const site = await open(app, port);
  return {
    address: site.address,
    next(mechanism, seed, hurts) {
      const plan = { mechanism, seed, hurts, came: undefined as Visit | undefined };
      planned = plan;
      return { visit: () => plan.came };
    },
    async close() {
      for (const { server } of [site, outside]) {
        if ('closeAllConnections' in server) server.closeAllConnections();
        await new Promise((done) => server.close(done));
      }
    },
  };
}

/** A number from a name, so that two mechanisms of the same seed meet different noise. */
const nameNumber = (id: string): number =>
  [...id].reduce((sum, char) => (sum * 31 + char.charCodeAt(0)) % 1_000_003, 7);

async function answer(handler: Handler, visit: Visit, c: Context): Promise<Response> {
  const reply = await handler(visit, c);
  if (typeof reply === 'string') return c.html(withNoise(reply, visit.noise, visit.outside));
  if (reply instanceof Response) return reply;
  return c.json(reply.data as object, reply.status ?? 200);
}

function open(app: Hono, port: number): Promise<{ server: ServerType; address: string; app: Hono }> {
  return new Promise((done, fail) => {
    const server = serve({ fetch: app.fetch, port, hostname: '127.0.0.1' }, (info) =>
      done({ server, address: `http://127.0.0.1:${info.port}`, app }),
    );
    server.on('error', fail);
  });
}
