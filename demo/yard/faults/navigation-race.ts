import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const navigationRace: Mechanism[] = [
  {
    id: 'leaves-after-saving',
    cause: 'navigation-race',
    suite: 'profile',
    title: 'goes to the trips after saving',
    about: 'The page leaves only once saving is done; the heading is read before.',
    site: {
      'GET /profile': () =>
        shopPage(
          'Profile',
          `<h1>Profile</h1><button id="save">Save</button>`,
          `document.getElementById('save').onclick = () => { fetch('/profile', { method: 'PUT' }).then(() => { location.href = '/trips'; }); };`,
        ),
      'PUT /profile': async (visit) => {
        if (visit.hurts) {
          visit.parted(20);
          await sleep(visit.draw(420, 560));
        }
        return { data: {} };
      },
      'GET /trips': () => shopPage('Trips', `<h1>My trips</h1>`),
    },
    async test(t) {
      await t.open('/profile');
      await t.click('#save');
      await t.sleep(200);
      await t.check('heading', await t.text('h1'), 'My trips');
    },
  },
  {
    id: 'receipt-in-the-same-page',
    cause: 'navigation-race',
    suite: 'checkout',
    title: 'shows the receipt',
    about: 'The address changes at once, the view of the receipt comes later; the heading is still that of the basket.',
    site: {
      'GET /basket': () =>
        shopPage(
          'Basket',
          `<div id="view"><h1>Basket</h1><a id="pay" href="#receipt">Pay</a></div>`,
          `addEventListener('hashchange', () => fetch('/basket/views' + location.hash.replace('#', '/')).then((r) => r.text()).then((html) => { document.getElementById('view').innerHTML = html; document.title = 'Receipt'; }));`,
        ),
      'GET /basket/views/receipt': async (visit, c) => {
        if (visit.hurts) {
          visit.parted(20);
          await sleep(visit.draw(700, 900));
        }
        return c.text('<h1>Receipt</h1><b id="number">LF-2041</b>');
      },
    },
    async test(t) {
      await t.open('/basket');
      await t.click('#pay');
      await t.sleep(250);
      await t.check('heading', await t.text('h1'), 'Receipt');
    },
  },
  {
    id: 'signed-in-by-way-of',
    cause: 'navigation-race',
    held: true,
    suite: 'account',
    title: 'signs in',
    about: 'A page in between says “Signing you in” and goes on by itself; the title is read there.',
    site: {
      'GET /sign-in': () =>
        shopPage(
          'Sign in',
          `<h1>Sign in</h1><form action="/sign-in/go"><input name="who" /><button>Sign in</button></form>`,
        ),
      'GET /sign-in/go': (visit, c) => {
        const wait = visit.hurts ? visit.draw(450, 650) : 0;
        visit.parted();
        return visit.hurts
          ? shopPage(
              'One moment',
              `<h1>Signing you in…</h1>`,
              `setTimeout(() => { location.replace('/account'); }, ${wait});`,
            )
          : c.redirect('/account');
      },
      'GET /account': () => shopPage('Account', `<h1>Account</h1>`),
    },
    async test(t) {
      await t.open('/sign-in');
      await (await t.find('input[name=who]')).type('selin');
      await t.click('form button');
      await t.check('title', await t.driver.title(), 'Account · Lodos Ferries');
    },
  },
];
