import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const wrongWindow: Mechanism[] = [
  {
    id: 'map-in-a-new-window',
    cause: 'wrong-window',
    suite: 'maps',
    title: 'opens the map of a port',
    about: 'In some visits the map opens in a new window; the test goes on looking at the old one.',
    site: {
      'GET /port': (visit) => {
        visit.parted(100);
        return shopPage(
          'Port',
          `<h1>Kuzu Island</h1><a id="map" href="/port/map" ${visit.hurts ? 'target="_blank"' : ''}>Map</a>`,
        );
      },
      'GET /port/map': () => shopPage('Map', '<h1>Map</h1><p id="scale">1 : 5000</p>'),
    },
    async test(t) {
      await t.open('/port');
      await t.click('#map');
      await t.sleep(200);
      await t.check('scale', await t.text('#scale'), '1 : 5000');
    },
  },
  {
    id: 'news-window-is-last',
    cause: 'wrong-window',
    suite: 'passes',
    title: 'prints the pass in its window',
    about: 'The test takes the last window; in some visits a news window has opened after the one it means.',
    site: {
      'GET /passes': (visit) => {
        visit.parted(120);
        return shopPage(
          'Passes',
          `<h1>Passes</h1><button id="pass">Pass</button>`,
          `document.getElementById('pass').onclick = () => { open('/passes/1'); };`,
        );
      },
      'GET /passes/1': (visit) =>
        shopPage(
          'Pass',
          '<h1>Pass</h1><b class="reference">LF-7</b>',
          visit.hurts ? `addEventListener('load', () => open('/passes/news'));` : '',
        ),
      'GET /passes/news': () => shopPage('News', '<h1>News from the quay</h1>'),
    },
    capabilities: { 'goog:chromeOptions': { args: ['--disable-popup-blocking'] } },
    async test(t) {
      await t.open('/passes');
      await t.click('#pass');
      await t.sleep(900);
      const windows = await t.driver.windows();
      await t.driver.toWindow(windows.at(-1)!);
      await t.check('reference', await t.text('.reference'), 'LF-7');
    },
  },
  {
    id: 'card-in-a-frame',
    cause: 'wrong-window',
    suite: 'payment',
    title: 'types the card',
    about: 'In some visits the card’s field stands in a frame; the test looks for it in the page.',
    site: {
      'GET /payment': (visit) => {
        visit.parted();
        const field = '<label>Card <input id="card-number" /></label>';
        return shopPage(
          'Payment',
          `<h1>Payment</h1>${visit.hurts ? '<iframe src="/payment/field" width="400" height="80" title="Card"></iframe>' : field}`,
        );
      },
      'GET /payment/field': () => `<!doctype html><label>Card <input id="card-number" /></label>`,
    },
    async test(t) {
      await t.open('/payment');
      const field = await t.find('#card-number');
      await field.type('0000 1111');
      await t.check('card', await field.value(), '0000 1111');
    },
  },
  {
    id: 'sum-beside-the-frame',
    cause: 'wrong-window',
    suite: 'payment',
    title: 'shows the sum while one pays',
    about: 'The test has gone into the frame of the card; in some visits the sum stands outside of it.',
    site: {
      'GET /pay': (visit) => {
        visit.parted();
        return shopPage(
          'Pay',
          `<h1>Pay</h1><iframe id="desk" src="/pay/desk" width="500" height="160" title="Desk"></iframe>${visit.hurts ? '<p>To pay <b class="sum">412</b></p>' : ''}`,
        );
      },
      'GET /pay/desk': (visit) =>
        `<!doctype html><label>Card <input id="desk-card" /></label>${visit.hurts ? '' : '<p>To pay <b class="sum">412</b></p>'}`,
    },
    async test(t) {
      await t.open('/pay');
      await t.enter('#desk');
      await (await t.find('#desk-card')).type('0000 1111');
      await t.check('sum', await t.text('.sum'), '412');
    },
  },
  {
    id: 'berth-on-the-other-deck',
    cause: 'wrong-window',
    held: true,
    suite: 'ferry plan',
    title: 'takes a berth on the plan',
    about: 'Each deck is a frame of its own; the ship that sails today has the berth on the other deck.',
    site: {
      'GET /plan-of-decks': (visit) => {
        visit.parted();
        return shopPage(
          'Plan',
          `<h1>Decks</h1><iframe name="upper" src="/plan-of-decks/upper" width="420" height="140" title="Upper deck"></iframe>
           <iframe name="lower" src="/plan-of-decks/lower" width="420" height="140" title="Lower deck"></iframe>`,
        );
      },
      'GET /plan-of-decks/upper': (visit) =>
        `<!doctype html><h2>Upper deck</h2>${visit.hurts ? '<p>Lounge</p>' : '<button class="berth">Berth 9</button>'}`,
      'GET /plan-of-decks/lower': (visit) =>
        `<!doctype html><h2>Lower deck</h2>${visit.hurts ? '<button class="berth">Berth 9</button>' : '<p>Cars</p>'}`,
    },
    async test(t) {
      await t.open('/plan-of-decks');
      await t.check('heading', await t.text('h1'), 'Decks');
      await t.enter('iframe[name=upper]');
      await t.check('deck', await t.text('h2'), 'Upper deck');
      await t.click('.berth');
    },
  },
];
