import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const emptyCheck: Mechanism[] = [
  {
    id: 'fares-not-there-yet',
    cause: 'empty-check',
    passes: true,
    suite: 'fares',
    title: 'shows every fare with its currency',
    about: 'The test checks each fare it finds; it looks before any is there, and passes on nothing.',
    site: {
      'GET /all-fares': () =>
        shopPage(
          'Fares',
          `<h1>Fares</h1><ul id="fares"></ul>`,
          `fetch('/all-fares/list').then((r) => r.json()).then((list) => { for (const f of list) { const li = document.createElement('li'); li.className = 'fare'; li.textContent = f; document.getElementById('fares').append(li); } });`,
        ),
      'GET /all-fares/list': async (visit) => {
        if (visit.hurts) {
          visit.parted(60);
          await sleep(visit.draw(500, 700));
        }
        return { data: ['412 kr', '290 kr', '120 kr'] };
      },
    },
    async test(t) {
      await t.open('/all-fares');
      await t.sleep(250);
      for (const fare of await t.all('.fare')) await t.check('currency', (await fare.text()).endsWith(' kr'), true);
    },
  },
  {
    id: 'rows-of-another-class',
    cause: 'empty-check',
    passes: true,
    suite: 'crew',
    title: 'gives every shift a name',
    about: 'The rows are of another class in some visits; the test finds none and checks none.',
    site: {
      'GET /shifts': (visit) => {
        visit.parted();
        const name = visit.hurts ? 'shift-row' : 'shift';
        return shopPage(
          'Shifts',
          `<h1>Shifts</h1>${['Selin', 'Mert'].map((n) => `<p class="${name}">${n}</p>`).join('')}`,
        );
      },
    },
    async test(t) {
      await t.open('/shifts');
      await t.check('heading', await t.text('h1'), 'Shifts');
      for (const row of await t.all('.shift')) await t.check('name', (await row.text()).length > 0, true);
    },
  },
  {
    id: 'no-lines-in-the-list',
    cause: 'empty-check',
    held: true,
    passes: true,
    suite: 'invoices',
    title: 'dates every invoice',
    about: 'The list is empty in some visits; a test that goes through it has nothing to check.',
    site: {
      'GET /invoices': (visit) => {
        visit.parted();
        const rows = visit.hurts
          ? ''
          : ['12 May', '3 June', '9 June'].map((d) => `<tr><td class="date">${d}</td></tr>`).join('');
        return shopPage('Invoices', `<h1>Invoices</h1><table><tbody>${rows}</tbody></table>`);
      },
    },
    async test(t) {
      await t.open('/invoices');
      await t.until('h1');
      for (const cell of await t.all('//td[@class="date"]'))
        await t.check('date', /^\d+ [A-Z]/.test(await cell.text()), true);
    },
  },
];
