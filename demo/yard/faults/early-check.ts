import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const earlyCheck: Mechanism[] = [
  {
    id: 'points-read-early',
    cause: 'early-check',
    suite: 'club',
    title: 'shows the points of a member',
    about: 'The points are read before the account has answered.',
    site: {
      'GET /club': () =>
        shopPage(
          'Club',
          `<h1>Sea club</h1><p>You have <b id="points">0</b> points.</p>`,
          `fetch('/club/points').then((r) => r.json()).then((d) => { document.getElementById('points').textContent = d.points; });`,
        ),
      'GET /club/points': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(450, 600));
        }
        return { data: { points: 120 } };
      },
    },
    async test(t) {
      await t.open('/club');
      await t.sleep(200);
      await t.check('points', await t.text('#points'), '120');
    },
  },
  {
    id: 'stops-counted-early',
    cause: 'early-check',
    suite: 'routes',
    title: 'lists all stops of the coast route',
    about: 'The stops come in two parts; they are counted after the first.',
    site: {
      'GET /routes/coast': () =>
        shopPage(
          'Coast route',
          `<h1>Coast route</h1><ol class="stops"></ol>`,
          `const add = (list) => { for (const s of list) { const li = document.createElement('li'); li.textContent = s; document.querySelector('.stops').append(li); } };
           fetch('/routes/coast/stops?part=1').then((r) => r.json()).then(add).then(() => fetch('/routes/coast/stops?part=2')).then((r) => r.json()).then(add);`,
        ),
      'GET /routes/coast/stops': async (visit, c) => {
        const second = c.req.query('part') === '2';
        if (visit.hurts && second) {
          visit.parted(30);
          await sleep(visit.draw(900, 1100));
        }
        return { data: second ? ['Martı Bay', 'Poyraz Cape', 'Yakamoz Pier'] : ['Lodos Harbour', 'Kuzu Island'] };
      },
    },
    async test(t) {
      await t.open('/routes/coast');
      await t.until('.stops li');
      await t.sleep(150);
      await t.check('number of stops', (await t.all('.stops li')).length, 5);
    },
  },
  {
    id: 'cabin-told-free',
    cause: 'early-check',
    passes: true,
    suite: 'cabins',
    title: 'offers a free cabin',
    about:
      'The cabin reads “free” from the page as it was sent; then the answer says that it is taken. The test has passed by then.',
    site: {
      'GET /cabins/12': () =>
        shopPage(
          'Cabin 12',
          `<h1>Cabin 12</h1><p class="standing">free</p><p class="deck">Deck 3</p>`,
          `fetch('/cabins/12/standing').then((r) => r.json()).then((d) => { document.querySelector('.standing').textContent = d.text; });`,
        ),
      'GET /cabins/12/standing': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(420, 560));
        }
        return { data: { text: visit.hurts ? 'taken since 09:14' : 'free' } };
      },
    },
    async test(t) {
      await t.open('/cabins/12');
      await t.sleep(150);
      await t.check('standing', await t.text('.standing'), 'free');
      await t.check('deck', await t.text('.deck'), 'Deck 3');
      await t.sleep(600);
    },
  },
  {
    id: 'booking-confirmed-early',
    cause: 'early-check',
    held: true,
    passes: true,
    suite: 'booking',
    title: 'confirms a group booking',
    about: 'The page says “Confirmed” as soon as one presses, and takes it back when the answer refuses.',
    site: {
      'GET /groups/new': () =>
        shopPage(
          'Group booking',
          `<h1>Group of twelve</h1><button id="book">Book</button><output id="state"></output>`,
          `document.getElementById('book').onclick = () => { const s = document.getElementById('state'); s.textContent = 'Confirmed';
             fetch('/groups/book', { method: 'POST' }).then((r) => r.json()).then((d) => { s.textContent = d.text; }); };`,
        ),
      'POST /groups/book': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(400, 600));
        }
        return { data: { text: visit.hurts ? 'Refused, only nine seats are left' : 'Confirmed' } };
      },
    },
    async test(t) {
      await t.open('/groups/new');
      await t.click('#book');
      await t.check('state', await t.text('#state'), 'Confirmed');
      await t.check('heading', await t.text('h1'), 'Group of twelve');
      await t.sleep(700);
    },
  },
  {
    id: 'weather-read-early',
    cause: 'early-check',
    held: true,
    suite: 'deck',
    title: 'shows the wind on deck',
    about: 'The wind is read from a script while the page still shows what it remembered.',
    site: {
      'GET /deck': () =>
        shopPage(
          'Deck',
          `<h1>Open deck</h1><dl><dt>Wind</dt><dd data-wind>calm</dd></dl>`,
          `setTimeout(() => fetch('/deck/wind').then((r) => r.json()).then((d) => { document.querySelector('[data-wind]').textContent = d.wind; }), 10);`,
        ),
      'GET /deck/wind': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(1000, 1200));
        }
        return { data: { wind: 'Poyraz 5' } };
      },
    },
    async test(t) {
      await t.open('/deck');
      await t.sleep(250);
      await t.check('heading', await t.text('h1'), 'Open deck');
      await t.check('wind', await t.text('[data-wind]'), 'Poyraz 5');
    },
  },
];
