import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const unexpectedDialog: Mechanism[] = [
  {
    id: 'alert-of-a-change',
    cause: 'unexpected-dialog',
    suite: 'changes',
    title: 'reads the gate of a sailing',
    about: 'An alert tells of a change while the test is reading.',
    capabilities: { unhandledPromptBehavior: 'ignore' },
    site: {
      'GET /gate': (visit) => {
        visit.parted(180);
        return shopPage(
          'Gate',
          `<h1>Gate</h1><p id="gate">Gate 5</p>`,
          visit.hurts ? `setTimeout(() => alert('The evening sailing now leaves at 18:55.'), 180);` : '',
        );
      },
    },
    async test(t) {
      await t.open('/gate');
      await t.sleep(400);
      await t.check('gate', await t.text('#gate'), 'Gate 5');
    },
  },
  {
    id: 'asks-before-removing',
    cause: 'unexpected-dialog',
    suite: 'basket',
    title: 'removes a ticket',
    about: 'In some visits the page asks before it removes anything.',
    site: {
      'GET /tickets': (visit) => {
        visit.parted(80);
        return shopPage(
          'Tickets',
          `<h1>Tickets</h1><ul><li>Kuzu Island <button id="remove">Remove</button></li></ul><output id="left">1 ticket</output>`,
          `document.getElementById('remove').onclick = () => { if (${visit.hurts ? "confirm('Remove this ticket for good?')" : 'true'}) document.getElementById('left').textContent = 'no tickets'; };`,
        );
      },
    },
    async test(t) {
      await t.open('/tickets');
      await t.click('#remove');
      await t.check('left', await t.text('#left'), 'no tickets');
    },
  },
  {
    id: 'asks-for-a-word',
    cause: 'unexpected-dialog',
    held: true,
    suite: 'reviews',
    title: 'goes back to the trips',
    about: 'The page asks for a word on the trip when one leaves it.',
    capabilities: { unhandledPromptBehavior: 'dismiss and notify' },
    site: {
      'GET /trip': (visit) => {
        visit.parted(250);
        return shopPage(
          'Trip',
          `<h1>Trip to Martı Bay</h1><p class="when">4 May</p>`,
          visit.hurts ? `addEventListener('load', () => setTimeout(() => prompt('How was the crossing?'), 250));` : '',
        );
      },
    },
    async test(t) {
      await t.open('/trip');
      await t.check('heading', await t.text('h1'), 'Trip to Martı Bay');
      await t.sleep(450);
      await t.check('day', await t.text('.when'), '4 May');
    },
  },
];
