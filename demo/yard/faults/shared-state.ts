import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const sharedState: Mechanism[] = [
  {
    id: 'basket-of-the-test-before',
    cause: 'shared-state',
    suite: 'basket',
    title: 'puts one ticket into the basket',
    about: 'The account’s basket still holds what an earlier test put there.',
    site: {
      'GET /account/basket': (visit) => {
        visit.parted();
        const left = visit.hurts ? ['School trip'] : [];
        visit.kept.set('basket', left);
        return shopPage(
          'Basket',
          `<h1>Basket</h1><ul id="items">${left.map((one) => `<li>${one}</li>`).join('')}</ul><p id="count">${left.length} tickets</p><button id="add">Add Kuzu Island</button>`,
          `document.getElementById('add').onclick = () => fetch('/account/basket', { method: 'POST' }).then((r) => r.json()).then((d) => { document.getElementById('count').textContent = d.count + ' tickets'; document.getElementById('items').innerHTML = d.items.map((i) => '<li>' + i + '</li>').join(''); });`,
        );
      },
      'POST /account/basket': (visit) => {
        const items = [...(visit.kept.get('basket') as string[]), 'Kuzu Island'];
        visit.kept.set('basket', items);
        return { data: { count: items.length, items } };
      },
    },
    async test(t) {
      await t.open('/account/basket');
      await t.click('#add');
      await t.until('#items', /Kuzu/);
      await t.check('count', await t.text('#count'), '1 tickets');
    },
  },
  {
    id: 'seat-taken-already',
    cause: 'shared-state',
    suite: 'holds',
    title: 'holds seat 2A',
    about: 'The seat is still held by an attempt before, which did not let it go.',
    site: {
      'GET /hold': () =>
        shopPage(
          'Hold',
          `<h1>Seat 2A</h1><button id="hold">Hold</button><output id="told"></output>`,
          `document.getElementById('hold').onclick = () => fetch('/hold', { method: 'POST' }).then((r) => r.json()).then((d) => { document.getElementById('told').textContent = d.text; });`,
        ),
      'POST /hold': (visit) => {
        visit.parted();
        return visit.hurts
          ? { data: { text: 'Seat 2A is already held by another booking' }, status: 409 }
          : { data: { text: 'Seat 2A is yours' } };
      },
    },
    async test(t) {
      await t.open('/hold');
      await t.click('#hold');
      await t.until('#told');
      await t.check('told', await t.text('#told'), 'Seat 2A is yours');
    },
  },
  {
    id: 'name-exists-already',
    cause: 'shared-state',
    held: true,
    suite: 'accounts',
    title: 'opens an account for Selin',
    about: 'The account was made by an attempt before, and exists already.',
    site: {
      'GET /accounts/new': () =>
        shopPage(
          'New account',
          `<h1>New account</h1><input id="user" /><button id="make">Make it</button><output id="made"></output>`,
          `document.getElementById('make').onclick = () => fetch('/accounts/new?user=' + encodeURIComponent(document.getElementById('user').value), { method: 'POST' }).then((r) => r.json()).then((d) => { document.getElementById('made').textContent = d.text; });`,
        ),
      'POST /accounts/new': (visit) => {
        visit.parted();
        return visit.hurts
          ? { data: { text: 'The name selin.ak is in use, since 23 November' }, status: 409 }
          : { data: { text: 'Account made' } };
      },
    },
    async test(t) {
      await t.open('/accounts/new');
      await (await t.find('#user')).type('selin.ak');
      await t.click('#make');
      await t.until('#made');
      await t.check('made', await t.text('#made'), 'Account made');
    },
  },
];
