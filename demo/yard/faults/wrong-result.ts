import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const wrongResult: Mechanism[] = [
  {
    id: 'fee-left-out',
    cause: 'wrong-result',
    commit: true,
    suite: 'sums',
    title: 'adds the harbour fee',
    about: 'Since a change of the application the fee is left out of the sum.',
    site: {
      'GET /sum': (visit) => {
        visit.parted();
        return shopPage(
          'Sum',
          `<h1>Sum</h1><p>Fare <b>412</b>, fee <b>30</b></p><p>To pay <b id="sum">${visit.hurts ? 412 : 442}</b></p>`,
        );
      },
    },
    async test(t) {
      await t.open('/sum');
      await t.check('heading', await t.text('h1'), 'Sum');
      await t.check('sum', await t.text('#sum'), '442');
    },
  },
  {
    id: 'order-turned-round',
    cause: 'wrong-result',
    commit: true,
    suite: 'order',
    title: 'puts the earliest sailing first',
    about: 'Since a change of the application the latest sailing stands first.',
    site: {
      'GET /order': (visit) => {
        visit.parted();
        const list = ['07:10', '12:20', '18:40', '21:30'];
        if (visit.hurts) list.reverse();
        return shopPage('Order', `<h1>Order</h1><ol>${list.map((one) => `<li>${one} Kuzu Island</li>`).join('')}</ol>`);
      },
    },
    async test(t) {
      await t.open('/order');
      await t.check('first', await t.text('ol li'), '07:10 Kuzu Island');
    },
  },
  {
    id: 'free-seats-miscounted',
    cause: 'wrong-result',
    held: true,
    commit: true,
    suite: 'seats',
    title: 'counts the free seats',
    about: 'Since a change of the application held seats are counted as free.',
    site: {
      'GET /free': () =>
        shopPage(
          'Free seats',
          `<h1>Free seats</h1><button id="count">Count</button><output id="free"></output>`,
          `document.getElementById('count').onclick = () => fetch('/free/count').then((r) => r.json()).then((d) => { document.getElementById('free').textContent = d.free + ' free'; });`,
        ),
      'GET /free/count': (visit) => {
        visit.parted();
        return { data: { free: visit.hurts ? 32 : 25 } };
      },
    },
    async test(t) {
      await t.open('/free');
      await t.click('#count');
      await t.until('#free');
      await t.check('free', await t.text('#free'), '25 free');
    },
  },
];
