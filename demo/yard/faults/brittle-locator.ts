import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const brittleLocator: Mechanism[] = [
  {
    id: 'id-of-the-build',
    cause: 'brittle-locator',
    suite: 'fares',
    title: 'shows the fare of a child',
    about: 'The element’s id carries a number that the site makes up anew.',
    site: {
      'GET /fares/child': (visit) => {
        visit.parted();
        const id = visit.hurts ? `fare-${visit.draw(100000, 999999).toString(16)}` : 'fare-3f9a2c';
        return shopPage('Child fare', `<h1>Child fare</h1><p><b id="${id}">120</b> a child</p>`);
      },
    },
    async test(t) {
      await t.open('/fares/child');
      await t.check('fare', await t.text('#fare-3f9a2c'), '120');
    },
  },
  {
    id: 'path-counted-from-the-top',
    cause: 'brittle-locator',
    suite: 'piers',
    title: 'names the pier of a sailing',
    about: 'The path counts its way down the page; one more block shifts it.',
    site: {
      'GET /piers/e-1840': (visit) => {
        visit.parted();
        const note = visit.hurts ? '<div><p>Lifts are being serviced this week.</p></div>' : '';
        return shopPage(
          'Pier',
          `<h1>Evening sailing</h1><div class="line"><p>Kuzu Island</p></div>${note}<div class="pier"><p>Pier 4</p></div>`,
        );
      },
    },
    async test(t) {
      await t.open('/piers/e-1840');
      await t.check('pier', await t.text('/html/body/main/div[2]/p[1]'), 'Pier 4');
    },
  },
  {
    id: 'class-of-the-style-sheet',
    cause: 'brittle-locator',
    held: true,
    suite: 'menu',
    title: 'shows the price of tea',
    about: 'The class is made up by the tool that packs the style sheet, and differs between builds.',
    site: {
      'GET /tea': (visit) => {
        visit.parted();
        const made = visit.hurts ? `css-${visit.draw(20000, 90000).toString(36)}q${visit.draw(10, 99)}` : 'css-1x9kq27';
        return shopPage('Tea', `<h1>Tea</h1><span class="${made}">12</span>`, '', `.${made} { color: #246; }`);
      },
    },
    async test(t) {
      await t.open('/tea');
      await t.check('heading', await t.text('h1'), 'Tea');
      await t.check('price', await t.text('.css-1x9kq27'), '12');
    },
  },
];
