import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

const names = ['Ada Kaya', 'Mert Demir', 'Selin Ak', 'Deniz Arı', 'Can Polat', 'Ece Uysal'];
const awkward = ["Ines O'Rourke", "Jean d'Arc", "Siobhan O'Neill", "Luca D'Angelo"];

export const randomData: Mechanism[] = [
  {
    id: 'name-with-apostrophe',
    cause: 'random-data',
    suite: 'passengers',
    title: 'adds a made-up passenger',
    about: 'The test makes up a name; the form refuses those with an apostrophe.',
    site: {
      'GET /passengers': () =>
        shopPage(
          'Passengers',
          `<h1>Passengers</h1><input id="who" /><button id="add">Add</button><output id="added"></output>`,
          `document.getElementById('add').onclick = () => { const w = document.getElementById('who').value; document.getElementById('added').textContent = /^[\\p{L} ]+$/u.test(w) ? 'Passenger added' : 'Name not valid'; };`,
        ),
    },
    async test(t) {
      await t.open('/passengers');
      const name = t.hurts ? awkward[t.draw(0, awkward.length - 1)]! : names[t.draw(0, names.length - 1)]!;
      await (await t.find('#who')).type(name);
      await t.click('#add');
      await t.check('answer', await t.text('#added'), 'Passenger added');
    },
  },
  {
    id: 'party-too-large',
    cause: 'random-data',
    suite: 'parties',
    title: 'books for a made-up party',
    about: 'The test makes up how many travel; above six the page asks to telephone.',
    site: {
      'GET /parties': () =>
        shopPage(
          'Parties',
          `<h1>Parties</h1><input id="count" type="number" /><button id="book">Book</button><output id="answer"></output>`,
          `document.getElementById('book').onclick = () => { const n = +document.getElementById('count').value; document.getElementById('answer').textContent = n > 6 ? 'Please telephone us' : 'Booked'; };`,
        ),
    },
    async test(t) {
      await t.open('/parties');
      await (await t.find('#count')).type(String(t.hurts ? t.draw(7, 12) : t.draw(1, 6)));
      await t.click('#book');
      await t.check('answer', await t.text('#answer'), 'Booked');
    },
  },
  {
    id: 'code-with-a-plus',
    cause: 'random-data',
    held: true,
    suite: 'vouchers',
    title: 'looks up a made-up voucher',
    about: 'The test makes up a code; one with a plus arrives as a space at the server.',
    site: {
      'GET /voucher': (_, c) => {
        const code = c.req.query('code');
        return shopPage(
          'Voucher',
          `<h1>Voucher</h1>${code === undefined ? '<form><input name="q" id="code" /></form><button id="look">Look up</button>' : `<p id="told">${/^[A-Z0-9+]+$/.test(code) ? 'Voucher is good' : 'No such voucher'}</p>`}`,
          code === undefined
            ? `document.getElementById('look').onclick = () => { location.href = '/voucher?code=' + document.getElementById('code').value; };`
            : '',
        );
      },
    },
    async test(t) {
      await t.open('/voucher');
      const made = `LF${t.draw(100, 999)}${t.hurts ? '+' : ''}${['AB', 'CD', 'XY'][t.draw(0, 2)]}`;
      await (await t.find('#code')).type(made);
      await t.click('#look');
      await t.check('told', await t.until('#told'), 'Voucher is good');
    },
  },
];
