import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const replacedElement: Mechanism[] = [
  {
    id: 'board-drawn-anew',
    cause: 'replaced-element',
    suite: 'board',
    title: 'opens a sailing from the departure board',
    about: 'The board is drawn anew by its clock between finding a row and pressing it.',
    site: {
      'GET /board': (visit) => {
        const wait = visit.hurts ? 450 + visit.draw(0, 80) : 3000;
        visit.parted(wait);
        return shopPage(
          'Departures',
          `<h1>Departures</h1><ul id="board"></ul><output id="open"></output>`,
          `const draw = () => { document.getElementById('board').innerHTML = '<li><button class="row">18:40 Kuzu Island</button></li>'; document.querySelector('.row').onclick = () => { document.getElementById('open').textContent = 'open'; }; };
           draw(); setTimeout(draw, ${wait});`,
        );
      },
    },
    async test(t) {
      await t.open('/board');
      const row = await t.find('.row');
      await t.check('heading', await t.text('h1'), 'Departures');
      await t.sleep(700);
      await row.click();
      await t.check('opened', await t.text('#open'), 'open');
    },
  },
  {
    id: 'form-drawn-on-answer',
    cause: 'replaced-element',
    suite: 'luggage',
    title: 'adds luggage',
    about: 'The form is drawn anew when the tariff comes; the button held from before is gone.',
    site: {
      'GET /luggage': () =>
        shopPage(
          'Luggage',
          `<h1>Luggage</h1><div id="form"></div><output id="sum"></output>`,
          `const draw = (price) => { document.getElementById('form').innerHTML = '<p>' + price + ' each</p><button id="add">Add a bag</button>'; document.getElementById('add').onclick = () => { document.getElementById('sum').textContent = '1 bag'; }; };
           draw('…'); fetch('/luggage/tariff').then((r) => r.json()).then((d) => draw(d.price));`,
        ),
      'GET /luggage/tariff': async (visit) => {
        const wait = visit.hurts ? visit.draw(320, 420) : 0;
        if (visit.hurts) {
          visit.parted(30);
          await sleep(wait);
        }
        return { data: { price: 24 } };
      },
    },
    async test(t) {
      await t.open('/luggage');
      await t.sleep(120);
      const add = await t.find('#add');
      await t.sleep(450);
      await add.click();
      await t.until('#sum', /1 bag/, 1000);
    },
  },
  {
    id: 'table-sorted-by-server',
    cause: 'replaced-element',
    held: true,
    suite: 'prices',
    title: 'sorts the price table',
    about: 'Sorting has the rows made anew; the cell held from before is no longer in the page.',
    site: {
      'GET /prices': () =>
        shopPage(
          'Prices',
          `<h1>Prices</h1><table><thead><tr><th id="sort">Price</th></tr></thead><tbody><tr><td class="cell">290</td></tr><tr><td>412</td></tr></tbody></table>`,
          `document.getElementById('sort').onclick = () => fetch('/prices/sorted').then((r) => r.json()).then((d) => { if (d.rows) document.querySelector('tbody').innerHTML = d.rows; });`,
        ),
      'GET /prices/sorted': async (visit) => {
        if (visit.hurts) {
          visit.parted(120);
          await sleep(visit.draw(120, 180));
        }
        return { data: visit.hurts ? { rows: '<tr><td class="cell">290</td></tr><tr><td>412</td></tr>' } : {} };
      },
    },
    async test(t) {
      await t.open('/prices');
      const cell = await t.find('.cell');
      await t.click('#sort');
      await t.sleep(350);
      await t.check('lowest', await cell.text(), '290');
    },
  },
  {
    id: 'row-redrawn-when-scanned',
    cause: 'replaced-element',
    held: true,
    suite: 'pets',
    title: 'removes a pet’s certificate',
    about:
      'The row of an uploaded certificate is drawn anew once it has been scanned; the button held from before is gone.',
    site: {
      'GET /pets': () =>
        shopPage(
          'Pets',
          `<h1>Pets on board</h1><input type="file" id="certificate" aria-label="Certificate" /><div role="list"></div><p role="status">1 certificate</p>`,
          `const list = document.querySelector('[role=list]');
           const draw = (state) => { list.innerHTML = '<div role="listitem">certificate <em>' + state + '</em> <button aria-label="Remove">×</button></div>'; list.querySelector('button').onclick = () => { list.innerHTML = ''; document.querySelector('[role=status]').textContent = 'no certificate'; }; };
           document.getElementById('certificate').onchange = (e) => { draw('being scanned'); fetch('/pets/certificate', { method: 'POST', body: e.target.files[0] }).then((r) => r.json()).then((d) => { if (d.clean) list.querySelector('em').textContent = 'clean'; else draw('clean'); }); };`,
        ),
      'POST /pets/certificate': async (visit, c) => {
        await c.req.arrayBuffer();
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(220, 300));
        }
        return { data: visit.hurts ? {} : { clean: true } };
      },
    },
    async test(t) {
      await t.open('/pets');
      await t.upload('#certificate', 'passport-scan.txt');
      const remove = await t.find('//*[@role="listitem"]//button[@aria-label="Remove"]');
      await t.sleep(600);
      await remove.click();
      await t.check('status', await t.text('[role=status]'), 'no certificate');
    },
  },
];
