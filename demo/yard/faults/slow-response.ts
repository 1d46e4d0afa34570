import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const slowResponse: Mechanism[] = [
  {
    id: 'quote-slower-than-wait',
    cause: 'slow-response',
    suite: 'quotes',
    title: 'quotes a car crossing',
    about: 'The quote takes longer than the test is willing to wait.',
    site: {
      'GET /quote': () =>
        shopPage(
          'Quote',
          `<h1>Crossing by car</h1><button id="ask">Ask for a quote</button><p id="quote"></p>`,
          `document.getElementById('ask').onclick = () => { fetch('/quote/now').then((r) => r.json()).then((d) => { document.getElementById('quote').textContent = d.quote; }); };`,
        ),
      'GET /quote/now': async (visit) => {
        if (visit.hurts) visit.parted(400);
        await sleep(visit.hurts ? visit.draw(1350, 1700) : visit.draw(100, 350));
        return { data: { quote: '618 for a car and two' } };
      },
    },
    async test(t) {
      await t.open('/quote');
      await t.click('#ask');
      await t.until('#quote', /\d/, 1000);
      await t.check('quote', await t.text('#quote'), '618 for a car and two');
    },
  },
  {
    id: 'ticket-made-slowly',
    cause: 'slow-response',
    suite: 'tickets',
    title: 'makes a ticket',
    about: 'The page asks again and again whether the ticket is made; the making takes longer than the wait.',
    site: {
      'GET /ticket': () =>
        shopPage(
          'Ticket',
          `<h1>Ticket</h1><p class="progress">making it…</p>`,
          `const ask = () => fetch('/ticket/job').then((r) => r.json()).then((d) => { if (d.done) document.querySelector('.progress').textContent = 'ready'; else setTimeout(ask, 150); }); ask();`,
        ),
      'GET /ticket/job': (visit) => {
        const from = (visit.kept.get('from') as Map<object, number>) ?? new Map<object, number>();
        visit.kept.set('from', from);
        if (!from.has(visit)) from.set(visit, Date.now());
        visit.parted(300);
        return { data: { done: Date.now() - from.get(visit)! > (visit.hurts ? 1700 : 250) } };
      },
    },
    async test(t) {
      await t.open('/ticket');
      await t.until('.progress', /ready/, 1000);
    },
  },
  {
    id: 'photo-later-than-implicit-wait',
    cause: 'slow-response',
    held: true,
    suite: 'fleet',
    title: 'shows the ship’s card',
    about: 'The card is put into the page after the implicit wait has given up.',
    site: {
      'GET /fleet/lodos-3': () =>
        shopPage(
          'Lodos 3',
          `<h1>Lodos 3</h1><section id="cards"></section>`,
          `fetch('/fleet/lodos-3/card').then((r) => r.json()).then((d) => { document.getElementById('cards').innerHTML = '<p id="card">' + d.text + '</p>'; });`,
        ),
      'GET /fleet/lodos-3/card': async (visit) => {
        if (visit.hurts) visit.parted(300);
        await sleep(visit.hurts ? visit.draw(1300, 1700) : visit.draw(60, 300));
        return { data: { text: '420 passengers' } };
      },
    },
    async test(t) {
      await t.implicit(900);
      await t.open('/fleet/lodos-3');
      await t.check('card', await t.text('#card'), '420 passengers');
    },
  },
  {
    id: 'manifest-read-slowly',
    cause: 'slow-response',
    held: true,
    suite: 'freight',
    title: 'reads a freight manifest',
    about: 'The uploaded manifest is read by the service for longer than the test waits for its lines.',
    site: {
      'GET /freight': () =>
        shopPage(
          'Freight',
          `<h1>Freight</h1><label>Manifest <input type="file" name="manifest" /></label><ul role="list" aria-label="Lines"></ul>`,
          `document.querySelector('[name=manifest]').onchange = async (e) => {
             const answer = await fetch('/freight/manifest', { method: 'POST', body: e.target.files[0] });
             for (const line of (await answer.json()).lines) { const li = document.createElement('li'); li.setAttribute('role', 'listitem'); li.textContent = line; document.querySelector('[role=list]').append(li); }
           };`,
        ),
      'POST /freight/manifest': async (visit, c) => {
        await c.req.arrayBuffer();
        if (visit.hurts) visit.parted(350);
        await sleep(visit.hurts ? visit.draw(1700, 2100) : visit.draw(80, 300));
        return { data: { lines: ['Lorry, 12 t', 'Trailer, 4 t'] } };
      },
    },
    async test(t) {
      await t.open('/freight');
      await t.upload('//input[@name="manifest"]', 'passport-scan.txt');
      await t.until('//*[@role="listitem"][2]', /Trailer/, 1200);
      await t.check('lines', (await t.all('[role=listitem]')).length, 2);
    },
  },
];
