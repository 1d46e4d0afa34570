import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const coveredTarget: Mechanism[] = [
  {
    id: 'consent-over-page',
    cause: 'covered-target',
    suite: 'consent',
    title: 'starts a search',
    about: 'A consent sheet lies over the whole page in some visits.',
    site: {
      'GET /start': (visit) => {
        visit.parted();
        return shopPage(
          'Start',
          `<h1>Search</h1><button id="go">Search</button><output id="out"></output>${visit.hurts ? '<div class="sheet"><p>We use cookies for the weather.</p><button>Agree</button></div>' : ''}`,
          `document.getElementById('go').onclick = () => { document.getElementById('out').textContent = '4 sailings'; };`,
          `.sheet { position: fixed; inset: 0; background: rgba(0,0,0,.5); color: #fff; padding: 200px; }`,
        );
      },
    },
    async test(t) {
      await t.open('/start');
      await t.click('#go');
      await t.check('found', await t.text('#out'), '4 sailings');
    },
  },
  {
    id: 'tip-over-button',
    cause: 'covered-target',
    suite: 'tips',
    title: 'prints the timetable',
    about: 'A tip slides in over the button that is to be pressed.',
    site: {
      'GET /print': () =>
        shopPage(
          'Print',
          `<h1>Timetable</h1><button id="print">Print</button><output id="out"></output><div id="tip" hidden>Did you know that tickets are valid for a year?</div>`,
          `document.getElementById('print').onclick = () => { document.getElementById('out').textContent = 'printing'; };
           fetch('/print/tip').then((r) => r.json()).then((d) => { document.getElementById('tip').hidden = !d.show; });`,
          `#tip { position: fixed; top: 60px; left: 0; width: 400px; height: 120px; background: #ffd; z-index: 5; }`,
        ),
      'GET /print/tip': (visit) => {
        visit.parted(10);
        return { data: { show: visit.hurts } };
      },
    },
    async test(t) {
      await t.open('/print');
      await t.sleep(250);
      await t.click('#print');
      await t.check('state', await t.text('#out'), 'printing');
    },
  },
  {
    id: 'spinner-over-form',
    cause: 'covered-target',
    held: true,
    suite: 'seats',
    title: 'takes the seat at the window',
    about: 'A veil with a turning wheel lies over the seats while they are being fetched.',
    site: {
      'GET /seats': () =>
        shopPage(
          'Seats',
          `<h1>Seats</h1><div class="plan"><button id="w7">7 window</button><div class="veil">…</div></div><output id="seat"></output>`,
          `document.getElementById('w7').onclick = () => { document.getElementById('seat').textContent = '7 window'; };
           addEventListener('load', () => setTimeout(() => fetch('/seats/free').then((r) => r.json()).then(() => document.querySelector('.veil').remove()), 20));`,
          `.plan { position: relative; height: 200px; } .veil { position: absolute; inset: 0; background: rgba(255,255,255,.7); }`,
        ),
      'GET /seats/free': async (visit) => {
        if (visit.hurts) {
          visit.parted(20);
          await sleep(visit.draw(1900, 2300));
        }
        return { data: [] };
      },
    },
    async test(t) {
      await t.open('/seats');
      await t.sleep(200);
      await t.click('#w7');
      await t.check('seat', await t.text('#seat'), '7 window');
    },
  },
];
