import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const movingTarget: Mechanism[] = [
  {
    id: 'banner-pushes-rows',
    cause: 'moving-target',
    suite: 'cargo',
    title: 'takes a lorry on board',
    about: 'A banner comes in above the list between measuring the button and pressing where it was.',
    site: {
      'GET /cargo': () =>
        shopPage(
          'Cargo',
          `<div id="above"></div><h1>Lorries</h1>${[1, 2, 3, 4].map((n) => `<p style="height:44px;margin:0"><button data-n="${n}">Lorry ${n}</button></p>`).join('')}<output id="taken"></output>`,
          `for (const b of document.querySelectorAll('[data-n]')) b.onclick = () => { document.getElementById('taken').textContent = b.textContent; };
           addEventListener('load', () => setTimeout(() => fetch('/cargo/banner').then((r) => r.json()).then((d) => { if (d.text) { const p = document.createElement('p'); p.style.cssText = 'height:44px;margin:0;background:#fe9'; p.textContent = d.text; document.getElementById('above').append(p); } }), 20));`,
        ),
      'GET /cargo/banner': async (visit) => {
        if (visit.hurts) {
          const wait = visit.draw(700, 800);
          visit.parted(wait);
          await sleep(wait);
        }
        return { data: { text: visit.hurts ? 'High tide at noon' : '' } };
      },
    },
    async test(t) {
      await t.open('/cargo');
      await t.sleep(60);
      const { x, y, width, height } = await (await t.find('[data-n="3"]')).rect();
      await t.sleep(950);
      await t.pressAt(x + width / 2, y + height / 2);
      await t.check('taken', await t.text('#taken'), 'Lorry 3');
    },
  },
  {
    id: 'drawer-slides-under-hand',
    cause: 'moving-target',
    suite: 'basket',
    title: 'empties the basket from the drawer',
    about: 'The drawer is still sliding when the pointer has been put on its button and the button is pressed.',
    site: {
      'GET /drawer': (visit) => {
        visit.parted(150);
        return shopPage(
          'Drawer',
          `<h1>Basket</h1><button id="open">Open basket</button><aside class="drawer"><button id="empty" style="width:90px">Empty it</button></aside><output id="state">2 tickets</output>`,
          `document.getElementById('open').onclick = () => document.querySelector('.drawer').classList.add('in');
           document.getElementById('empty').onclick = () => { document.getElementById('state').textContent = 'empty'; };`,
          `.drawer { position: fixed; top: 120px; left: 0; width: 260px; padding: 20px; background: #eef; ${visit.hurts ? 'transition: transform 900ms linear;' : ''} } .drawer:not(.in) { transform: translateX(900px); }`,
        );
      },
    },
    async test(t) {
      await t.open('/drawer');
      await t.click('#open');
      const button = await t.find('#empty');
      await t.pressAt(0, 0, t.originOf(button), 300);
      await t.check('state', await t.text('#state'), 'empty');
    },
  },
  {
    id: 'rows-sorted-by-price',
    cause: 'moving-target',
    held: true,
    suite: 'sailings',
    title: 'chooses the noon sailing',
    about: 'The rows change places when the prices come, between measuring and pressing.',
    site: {
      'GET /by-price': () =>
        shopPage(
          'Sailings',
          `<h1>Sailings</h1><div id="rows">${['Morning', 'Noon', 'Evening'].map((n) => `<p style="height:40px;margin:0"><button id="${n}">${n}</button></p>`).join('')}</div><output id="choice"></output>`,
          `for (const b of document.querySelectorAll('#rows button')) b.onclick = () => { document.getElementById('choice').textContent = b.textContent + ' chosen'; };
           addEventListener('load', () => setTimeout(() => fetch('/by-price/prices').then((r) => r.json()).then((order) => { for (const n of order) document.getElementById('rows').append(document.getElementById(n).parentNode); }), 20));`,
        ),
      'GET /by-price/prices': async (visit) => {
        const wait = visit.hurts ? visit.draw(700, 800) : 0;
        if (visit.hurts) {
          visit.parted(wait);
          await sleep(wait);
        }
        return { data: visit.hurts ? ['Noon', 'Morning', 'Evening'] : ['Morning', 'Noon', 'Evening'] };
      },
    },
    async test(t) {
      await t.open('/by-price');
      await t.sleep(40);
      const place = await (await t.find('#Noon')).rect();
      await t.sleep(950);
      await t.pressAt(place.x + 12, place.y + 10);
      await t.check('choice', await t.text('#choice'), 'Noon chosen');
    },
  },
];
