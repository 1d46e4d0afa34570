import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const engineDifference: Mechanism[] = [
  {
    id: 'fares-filled-when-idle',
    cause: 'engine-difference',
    engine: 'webkit',
    suite: 'fares',
    title: 'shows the fares of the day',
    about: 'The fares are filled in when the browser is idle, by a function that one engine does not have.',
    site: {
      'GET /day-fares': (visit) => {
        visit.parted();
        return shopPage(
          'Fares',
          `<h1>Fares today</h1><ul id="fares"></ul><p id="state">Looking up fares</p>`,
          `requestIdleCallback(() => {
             document.getElementById('fares').innerHTML = '<li>Adult 24.00</li><li>Child 12.00</li>';
             document.getElementById('state').textContent = '2 fares';
           });`,
        );
      },
    },
    async test(t) {
      await t.open('/day-fares');
      await t.check('state', await t.until('#state', /\d/), '2 fares');
      await t.check('fares', (await t.all('#fares li')).length, 2);
    },
  },
  {
    id: 'reason-in-the-engines-words',
    cause: 'engine-difference',
    engine: 'webkit',
    suite: 'vouchers',
    title: 'says why a voucher cannot be read',
    about: 'The page shows the words of a failed parse as they are, and each engine has its own.',
    site: {
      'GET /voucher-check': () => {
        return shopPage(
          'Vouchers',
          `<h1>Vouchers</h1><input id="voucher" aria-label="Voucher"><button id="read">Read</button><p id="reason"></p>`,
          `document.getElementById('read').onclick = () => {
             try { JSON.parse(document.getElementById('voucher').value); } catch (error) {
               document.getElementById('reason').textContent = 'Cannot be read: ' + error.message.split(',')[0];
             }
           };`,
        );
      },
    },
    async test(t) {
      await t.open('/voucher-check');
      await (await t.find('#voucher')).type('LODOS-12');
      t.parts();
      await t.click('//button[text()="Read"]');
      await t.check('reason', await t.until('#reason'), `Cannot be read: Unexpected token 'L'`);
    },
  },
  {
    id: 'greeting-by-platform',
    cause: 'engine-difference',
    engine: 'webkit',
    suite: 'app',
    title: 'offers the app and opens the menu',
    about:
      'The page asks the browser what it runs on by a part that one engine lacks; what its script sets up after that is missing.',
    site: {
      'GET /app-offer': (visit) => {
        visit.parted();
        return shopPage(
          'The app',
          `<h1>The app</h1><p id="offer">Get the app</p><button id="menu">Menu</button><nav id="links" hidden><a href="/app-offer">Harbours</a></nav>`,
          `document.getElementById('offer').textContent += navigator.userAgentData.mobile ? ' for your phone' : ' for your desk';
           document.getElementById('menu').onclick = () => { document.getElementById('links').hidden = false; };`,
        );
      },
    },
    async test(t) {
      await t.open('/app-offer');
      await t.click('#menu');
      await t.click('a', 'css selector');
      await t.check('heading', await t.text('h1'), 'The app');
    },
  },
  {
    id: 'day-typed-into-a-date-field',
    cause: 'engine-difference',
    engine: 'webkit',
    suite: 'search',
    title: 'searches by the day of sailing',
    about: 'A date field takes typed digits in one engine and nothing but the written form in another.',
    site: {
      'GET /by-day': () => {
        return shopPage(
          'Search',
          `<h1>Search</h1><label>Day <input id="day" type="date"></label><button id="go">Search</button><output id="found"></output>`,
          `document.getElementById('go').onclick = () => {
             const day = document.getElementById('day').value;
             document.getElementById('found').textContent = day ? '3 sailings on ' + day : 'Choose a day';
           };`,
        );
      },
    },
    async test(t) {
      await t.open('/by-day');
      t.parts();
      await (await t.find('#day')).type('12242026');
      await t.click('#go');
      await t.check('found', await t.until('#found'), '3 sailings on 2026-12-24');
    },
  },
  {
    id: 'crossing-planned-by-priority',
    cause: 'engine-difference',
    held: true,
    engine: 'webkit',
    suite: 'plans',
    title: 'plans a crossing with a stop',
    about:
      'The plan is made by a task with a priority, which one engine cannot schedule; the press is answered by nothing.',
    site: {
      'GET /crossing-plan': () => {
        return shopPage(
          'Plan',
          `<h1>Plan a crossing</h1><select id="via" aria-label="By way of"><option>Kepez</option><option>Yenice</option></select><button id="plan">Plan</button><ol id="legs"></ol>`,
          `document.getElementById('plan').addEventListener('click', async () => {
             const via = document.getElementById('via').value;
             await scheduler.postTask(() => {
               document.getElementById('legs').innerHTML = '<li>Lodos – ' + via + '</li><li>' + via + ' – Ada</li>';
             }, { priority: 'background' });
           });`,
        );
      },
    },
    async test(t) {
      await t.implicit(800);
      await t.open('/crossing-plan');
      await (await t.find('#via')).type('Yenice');
      t.parts();
      await t.click('#plan');
      await t.check('second leg', await t.text('#legs li:nth-child(2)'), 'Yenice – Ada');
    },
  },
  {
    id: 'paid-at-once-where-offered',
    cause: 'engine-difference',
    held: true,
    engine: 'webkit',
    suite: 'paying',
    title: 'pays at once',
    about: 'The page offers to pay at once only where the browser has a way to, which one engine has not.',
    site: {
      'GET /pay-at-once': (visit) => {
        visit.parted();
        return shopPage(
          'Pay',
          `<h1>Pay 96.00</h1><form><label>Card <input id="card"></label> <button type="button" id="slow">Go on</button></form><p id="paid"></p>`,
          `if ('PaymentRequest' in window) {
             const at = document.createElement('button');
             at.id = 'at-once'; at.textContent = 'Pay at once';
             at.onclick = () => { document.getElementById('paid').textContent = 'Paid 96.00'; };
             document.querySelector('h1').after(at);
           }`,
        );
      },
    },
    async test(t) {
      await t.open('/pay-at-once');
      await t.check('heading', await t.text('h1'), 'Pay 96.00');
      await t.click('//button[.="Pay at once"]');
      await t.check('paid', await t.text('#paid'), 'Paid 96.00');
    },
  },
];
