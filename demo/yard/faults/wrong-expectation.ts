import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const wrongExpectation: Mechanism[] = [
  {
    id: 'button-words-differ',
    cause: 'wrong-expectation',
    always: true,
    suite: 'wording',
    title: 'names the button that holds',
    about: 'The test expects other words than the button has ever had.',
    site: {
      'GET /wording': () => shopPage('Wording', `<h1>Wording</h1><button id="hold">Hold seat</button>`),
    },
    async test(t) {
      await t.open('/wording');
      await t.check('button', await t.text('#hold'), 'Hold a seat');
    },
  },
  {
    id: 'sum-written-otherwise',
    cause: 'wrong-expectation',
    always: true,
    suite: 'format',
    title: 'writes sums with a separator',
    about: 'The test expects a sum written in another way than the application writes it.',
    site: {
      'GET /format': () => shopPage('Format', `<h1>Format</h1><p>To pay <b id="sum">1 240.00</b></p>`),
    },
    async test(t) {
      await t.open('/format');
      await t.check('sum', await t.text('#sum'), '1,240.00');
    },
  },
  {
    id: 'island-called-otherwise',
    cause: 'wrong-expectation',
    held: true,
    always: true,
    suite: 'names',
    title: 'names the island',
    about: 'The test calls the island by a name that the application never uses.',
    site: {
      'GET /island': () =>
        shopPage(
          'Island',
          `<h1>Island</h1><button id="show">Show</button><p id="name"></p>`,
          `document.getElementById('show').onclick = () => { document.getElementById('name').textContent = 'Kuzu Island'; };`,
        ),
    },
    async test(t) {
      await t.open('/island');
      await t.click('#show');
      await t.check('name', await t.text('#name'), 'Island of Kuzu');
    },
  },
];
