import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const scriptError: Mechanism[] = [
  {
    id: 'handler-throws',
    cause: 'script-error',
    suite: 'seasons',
    title: 'chooses the winter season',
    about: 'The handler reads from something that is not there, and throws.',
    site: {
      'GET /seasons': (visit) => {
        visit.parted(60);
        return shopPage(
          'Seasons',
          `<h1>Seasons</h1><button id="winter">Winter</button><output id="chosen"></output>`,
          `const seasons = ${visit.hurts ? '{}' : "{ winter: { name: 'Winter' } }"};
           document.getElementById('winter').onclick = () => { document.getElementById('chosen').textContent = seasons.winter.name + ' chosen'; };`,
        );
      },
    },
    async test(t) {
      await t.open('/seasons');
      await t.click('#winter');
      await t.until('#chosen', /Winter/, 1000);
    },
  },
  {
    id: 'promise-rejected',
    cause: 'script-error',
    suite: 'islands',
    title: 'lists the islands',
    about: 'Data comes in a shape the page does not know; a promise is rejected and the list is never drawn.',
    site: {
      'GET /islands': () =>
        shopPage(
          'Islands',
          `<h1>Islands</h1><ul id="islands"></ul>`,
          `fetch('/islands/all').then((r) => r.json()).then((d) => { for (const one of d.list) { const li = document.createElement('li'); li.textContent = one; document.getElementById('islands').append(li); } });`,
        ),
      'GET /islands/all': (visit) => {
        visit.parted();
        return { data: visit.hurts ? { items: ['Kuzu'] } : { list: ['Kuzu', 'Kuzey'] } };
      },
    },
    async test(t) {
      await t.open('/islands');
      await t.until('#islands li', /Kuzu/, 1000);
    },
  },
  {
    id: 'start-up-throws',
    cause: 'script-error',
    held: true,
    suite: 'tides',
    title: 'shows the tide',
    about: 'The page’s own start throws on a record that is not well formed; what comes after it never runs.',
    site: {
      'GET /tides': (visit) => {
        visit.parted();
        return shopPage(
          'Tides',
          `<h1>Tides</h1><p class="tide"></p><script>const record = JSON.parse('${visit.hurts ? '{"high": ' : '{"high": 4.2}'}'); document.querySelector('.tide').textContent = 'High water ' + record.high + ' m';</script>`,
        );
      },
    },
    async test(t) {
      await t.open('/tides');
      await t.check('heading', await t.text('h1'), 'Tides');
      await t.check('tide', await t.text('.tide'), 'High water 4.2 m');
    },
  },
];
