import { serve, type ServerType } from '@hono/node-server';
import { Hono, type Context } from 'hono';
import { getCookie, setCookie } from 'hono/cookie';
import { readFileSync } from 'node:fs';
import { checkoutPage, homePage, passPage, sailingPage, seatPanel, timetablePage } from './pages.ts';
import { extras, popularPorts, ports, sailings } from './timetable.ts';
import { faults, Visits, type Fault, type Visit } from './visits.ts';

export interface FerrySite {
  address: string;
  weather: string;
  control: string;
  visits: Visits;
  close(): Promise<void>;
}

interface Hold {
  id: string;
  sailing: string;
  seat: string;
  name: string;
  fare: number;
  reference: string;
}

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const client = (name: string): string => readFileSync(new URL(`./client/${name}`, import.meta.url), 'utf8');

/** The shop itself. A visit is a cookie the page cannot read; its conditions were drawn when it began. */
function shop(visits: Visits, weather: string): Hono {
  const app = new Hono();
  const holds = new Map<string, Hold>();
  const visitOf = (c: Context): Visit => {
    const known = visits.of(getCookie(c, 'visit'));
    if (known) return known;
    const visit = visits.begin(c.req.path);
    setCookie(c, 'visit', visit.id, { httpOnly: true, path: '/' });
    return visit;
  };
  app.get('/client/shop.js', (c) => c.body(client('shop.js'), 200, { 'content-type': 'text/javascript' }));
  app.get('/client/shop.css', (c) => c.body(client('shop.css'), 200, { 'content-type': 'text/css' }));
  app.get('/', (c) => c.html(homePage(visitOf(c))));
  app.get('/sailings', (c) => {
    const to = c.req.query('to') ?? '';
    const { board } = visitOf(c);
    const list = to ? sailings.filter((s) => s.to.toLowerCase() === to.toLowerCase()) : sailings;
    return c.html(timetablePage(to, list, board));
  });
  app.get('/sailings/:id', (c) => {
    const sailing = sailings.find(({ id }) => id === c.req.param('id'));
    const visit = visitOf(c);
    return sailing ? c.html(sailingPage(sailing, visit, `${weather}/sea?visit=${visit.weatherMs}`)) : c.notFound();
  });
  app.get('/api/notices', (c) =>
    visitOf(c).board === 'fails' ? c.json({}, 503) : c.json({ text: 'The noon sailing is cancelled' }),
  );
  app.get('/api/ports', async (c) => {
    await sleep(visitOf(c).suggestionMs);
    const words = (c.req.query('q') ?? '').toLowerCase();
    return c.json(words ? ports.filter((name) => name.toLowerCase().startsWith(words)) : popularPorts);
  });
  app.get('/api/fare/:id', async (c) => {
    const sailing = sailings.find(({ id }) => id === c.req.param('id'));
    await sleep(visitOf(c).fareMs);
    return sailing ? c.json({ fare: sailing.fare, markup: String(await seatPanel(sailing, 2)) }) : c.json({}, 404);
  });
  app.post('/api/holds', async (c) => {
    const {
      sailing,
      seat,
      name,
      extras: chosen,
    } = await c.req.json<{ sailing: string; seat: string; name: string; extras: (keyof typeof extras)[] }>();
    const fare =
      (sailings.find(({ id }) => id === sailing)?.fare ?? 0) + chosen.reduce((sum, extra) => sum + extras[extra], 0);
    const hold = { id: `h${holds.size + 1}`, sailing, seat, name, fare, reference: `LF-${1000 + holds.size}` };
    holds.set(hold.id, hold);
    return c.json(hold);
  });
  app.get('/checkout/:id', (c) => {
    const hold = holds.get(c.req.param('id'));
    return hold ? c.html(checkoutPage(hold)) : c.notFound();
  });
  app.post('/api/holds/:id/pay', async (c) => {
    await sleep(40);
    const hold = holds.get(c.req.param('id'));
    return hold ? c.json({ reference: hold.reference }) : c.json({}, 404);
  });
  app.get('/pass/:id', (c) => {
    const hold = holds.get(c.req.param('id'));
    return hold ? c.html(passPage(hold)) : c.notFound();
  });
  return app;
}

/** The outside weather service, on an origin of its own. */
function weatherService(): Hono {
  const app = new Hono();
  app.get('/sea', async (c) => {
    await sleep(Math.min(Number(c.req.query('visit')) || 0, 10_000));
    return c.json({ text: 'Storm warning: Poyraz 7 expected after 20:00' }, 200, {
      'access-control-allow-origin': '*',
    });
  });
  return app;
}

/** Switches faults from outside; on an origin the pages know nothing of. */
function controls(visits: Visits): Hono {
  const app = new Hono();
  const known = (list: unknown): Fault[] => (Array.isArray(list) ? faults.filter((fault) => list.includes(fault)) : []);
  app.post('/next', async (c) => {
    const { seed, faults: on, rate } = await c.req.json<{ seed: number; faults: unknown; rate?: number }>();
    visits.plan(seed, known(on), rate);
    return c.json({ ok: true });
  });
  app.post('/standing', async (c) => {
    const { path, faults: on, rate } = await c.req.json<{ path: string; faults: unknown; rate?: number }>();
    visits.stand(path, known(on), rate);
    return c.json({ ok: true });
  });
  app.get('/visits', (c) => c.json({ visits: visits.all() }));
  return app;
}

function open(app: Hono, port: number): Promise<{ server: ServerType; address: string }> {
  return new Promise((done, fail) => {
    const server = serve({ fetch: app.fetch, port, hostname: '127.0.0.1' }, (info) =>
      done({ server, address: `http://127.0.0.1:${info.port}` }),
    );
    server.on('error', fail);
  });
}

/** Starts the ferry site with its weather service and controls. Port 0 takes any free port. */
export async function startFerrySite(port = 0): Promise<FerrySite> {
  const visits = new Visits();
  const weather = await open(weatherService(), port ? port + 1 : 0);
  const site = await open(shop(visits, weather.address), port);
  const control = await open(controls(visits), port ? port + 2 : 0);
  const close = async (): Promise<void> => {
    for (const { server } of [site, weather, control]) {
      if ('closeAllConnections' in server) server.closeAllConnections();
      await new Promise((done) => server.close(done));
    }
  };
  return { address: site.address, weather: weather.address, control: control.address, visits, close };
}
