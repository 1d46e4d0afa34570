import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const layoutVariant: Mechanism[] = [
  {
    id: 'menu-folded-when-narrow',
    cause: 'layout-variant',
    size: '620,800',
    suite: 'navigation',
    title: 'goes to the fleet by the menu',
    about: 'In a narrow window the menu is folded behind a button.',
    site: {
      'GET /home': (visit) => {
        visit.parted();
        return shopPage(
          'Home',
          `<nav><button class="fold">Menu</button><a id="fleet" href="/fleet">Fleet</a></nav><h1>Home</h1>`,
          '',
          `.fold { display: none; } @media (max-width: 700px) { .fold { display: inline; } #fleet { display: none; } }`,
        );
      },
      'GET /fleet': () => shopPage('Fleet', '<h1>Fleet</h1>'),
    },
    async test(t) {
      await t.open('/home');
      await t.click('#fleet');
      await t.check('heading', await t.until('h1'), 'Fleet');
    },
  },
  {
    id: 'column-hidden-when-narrow',
    cause: 'layout-variant',
    size: '560,800',
    suite: 'timetable',
    title: 'tells the pier of each sailing',
    about: 'The column with the piers is not shown in a narrow window; its text reads as empty.',
    site: {
      'GET /piers': (visit) => {
        visit.parted();
        return shopPage(
          'Piers',
          `<h1>Piers</h1><table><tr><td class="time">18:40</td><td class="pier">Pier 2</td></tr></table>`,
          '',
          `@media (max-width: 700px) { .pier { display: none; } }`,
        );
      },
    },
    async test(t) {
      await t.open('/piers');
      await t.check('time', await t.text('.time'), '18:40');
      await t.check('pier', await t.text('.pier'), 'Pier 2');
    },
  },
  {
    id: 'panel-off-the-edge',
    cause: 'layout-variant',
    held: true,
    size: '640,800',
    suite: 'filters',
    title: 'filters by deck',
    about: 'In a narrow window the panel with the filters is moved off the edge.',
    site: {
      'GET /filters': (visit) => {
        visit.parted();
        return shopPage(
          'Filters',
          `<h1>Cabins</h1><aside><button id="deck-3">Deck 3</button></aside><output id="found">18 cabins</output>`,
          `document.getElementById('deck-3').onclick = () => { document.getElementById('found').textContent = '6 cabins'; };`,
          `aside { position: fixed; top: 120px; left: 20px; } @media (max-width: 800px) { aside { transform: translateX(-600px); } }`,
        );
      },
    },
    async test(t) {
      await t.open('/filters');
      await t.click('#deck-3');
      await t.check('found', await t.text('#found'), '6 cabins');
    },
  },
];
