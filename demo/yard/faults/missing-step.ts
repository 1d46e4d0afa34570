import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

const terms = (script: string): string =>
  shopPage(
    'Terms',
    `<h1>Terms</h1><p><label id="wrap" hidden><input type="checkbox" id="agree" /> I agree</label></p><button id="on">Go on</button><output id="state"></output>`,
    `${script} document.getElementById('on').onclick = () => { document.getElementById('state').textContent = document.getElementById('agree').checked ? 'Welcome on board' : 'Terms not agreed to'; };`,
  );

export const missingStep: Mechanism[] = [
  {
    id: 'agrees-only-if-asked',
    cause: 'missing-step',
    suite: 'terms',
    title: 'goes on board after the terms',
    about: 'The test agrees only if it is asked at once; asked later, it leaves the step out.',
    site: {
      'GET /terms': (visit) => {
        const wait = visit.hurts ? visit.draw(1000, 1100) : 20;
        visit.parted(60);
        return terms(`setTimeout(() => { document.getElementById('wrap').hidden = false; }, ${wait});`);
      },
    },
    async test(t) {
      await t.open('/terms');
      await t.sleep(150);
      const agree = await t.find('#agree');
      if (await agree.shown()) await agree.click();
      await t.sleep(1000);
      await t.click('#on');
      await t.check('state', await t.text('#state'), 'Welcome on board');
    },
  },
  {
    id: 'bag-step-swallowed',
    cause: 'missing-step',
    suite: 'bags',
    title: 'pays for a bag',
    about: 'The step that adds the bag fails and is swallowed; the sum lacks it.',
    site: {
      'GET /bags': () =>
        shopPage(
          'Bags',
          `<h1>Bags</h1><div id="place"></div><p>To pay <b id="sum">412</b></p><button id="pay">Pay</button><output id="paid"></output>`,
          `setTimeout(() => fetch('/bags/offer').then((r) => r.json()).then(() => { document.getElementById('place').innerHTML = '<button id="bag">Add a bag for 24</button>'; document.getElementById('bag').onclick = () => { document.getElementById('sum').textContent = '436'; }; }), 0);
           document.getElementById('pay').onclick = () => { document.getElementById('paid').textContent = 'Paid ' + document.getElementById('sum').textContent; };`,
        ),
      'GET /bags/offer': async (visit) => {
        if (visit.hurts) {
          visit.parted(60);
          await sleep(visit.draw(600, 800));
        }
        return { data: {} };
      },
    },
    async test(t) {
      await t.open('/bags');
      await t.sleep(200);
      await t.maybe(() => t.click('#bag'));
      await t.click('#pay');
      await t.check('paid', await t.text('#paid'), 'Paid 436');
    },
  },
  {
    id: 'language-asked-late',
    cause: 'missing-step',
    held: true,
    suite: 'language',
    title: 'greets in English',
    about: 'The test chooses English only if the question is there already; asked later, it goes on without.',
    site: {
      'GET /hello': (visit) => {
        const wait = visit.hurts ? visit.draw(1000, 1100) : 10;
        visit.parted(60);
        return shopPage(
          'Hello',
          `<h1>…</h1><p class="ask" hidden><button id="english">English</button></p><button id="enter">→</button>`,
          `let tongue = 'tr'; setTimeout(() => { document.querySelector('.ask').hidden = false; }, ${wait});
           document.getElementById('english').onclick = () => { tongue = 'en'; };
           document.getElementById('enter').onclick = () => { document.querySelector('h1').textContent = tongue === 'en' ? 'Welcome' : 'Hoş geldiniz'; };`,
        );
      },
    },
    async test(t) {
      await t.open('/hello');
      await t.sleep(120);
      const asked = await t.script<boolean>(`return !document.querySelector('.ask').hidden;`);
      if (asked) await t.click('#english');
      await t.sleep(1000);
      await t.click('#enter');
      await t.check('greeting', await t.text('h1'), 'Welcome');
    },
  },
];
