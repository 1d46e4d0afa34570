import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const serviceError: Mechanism[] = [
  {
    id: 'save-answers-500',
    cause: 'service-error',
    suite: 'meals',
    title: 'orders a meal',
    about: 'The order is answered with an internal error.',
    site: {
      'GET /meals': () =>
        shopPage(
          'Meals',
          `<h1>Meals</h1><button id="order">Order soup</button><output id="told"></output>`,
          `document.getElementById('order').onclick = () => fetch('/meals/order', { method: 'POST' }).then((r) => { document.getElementById('told').textContent = r.ok ? 'Soup ordered' : 'Something went wrong'; });`,
        ),
      'POST /meals/order': (visit) => {
        visit.parted();
        return visit.hurts ? { data: { error: 'pool exhausted' }, status: 500 } : { data: {} };
      },
    },
    async test(t) {
      await t.open('/meals');
      await t.click('#order');
      await t.until('#told');
      await t.check('told', await t.text('#told'), 'Soup ordered');
    },
  },
  {
    id: 'tariff-unavailable',
    cause: 'service-error',
    suite: 'tariff',
    title: 'shows the tariff',
    about: 'The tariff is answered with 503; the page goes on showing nothing.',
    site: {
      'GET /tariff': () =>
        shopPage(
          'Tariff',
          `<h1>Tariff</h1><p id="tariff"></p>`,
          `fetch('/tariff/now').then((r) => (r.ok ? r.json() : null)).then((d) => { if (d) document.getElementById('tariff').textContent = d.text; });`,
        ),
      'GET /tariff/now': (visit) => {
        visit.parted();
        return visit.hurts ? { data: {}, status: 503 } : { data: { text: '412 a person' } };
      },
    },
    async test(t) {
      await t.open('/tariff');
      await t.until('#tariff', /\d/, 1000);
    },
  },
  {
    id: 'gateway-in-between',
    cause: 'service-error',
    held: true,
    suite: 'boarding',
    title: 'opens the boarding list',
    about: 'The page itself is answered by a gateway that reached nobody.',
    site: {
      'GET /lists': () => shopPage('Lists', `<h1>Lists</h1><a href="/lists/boarding">Boarding</a>`),
      'GET /lists/boarding': (visit, c) => {
        visit.parted();
        if (visit.hurts) return c.html('<!doctype html><title>502 Bad Gateway</title><h1>502 Bad Gateway</h1>', 502);
        return shopPage('Boarding list', `<h1>Boarding list</h1><p id="rows">34 names</p>`);
      },
    },
    async test(t) {
      await t.open('/lists');
      await t.click('Boarding', 'link text');
      await t.check('rows', await t.text('#rows'), '34 names');
    },
  },
];
