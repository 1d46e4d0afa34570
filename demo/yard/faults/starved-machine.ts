import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

/** How many processes compete for the machine in the attempts that hurt: enough to slow a browser several times. */
const many = 10;

export const starvedMachine: Mechanism[] = [
  {
    id: 'plan-drawn-slowly',
    cause: 'starved-machine',
    hogs: many,
    suite: 'plans',
    title: 'draws the plan of the deck',
    about: 'The page computes its plan; on a machine that others use up, everything takes several times as long.',
    site: {
      'GET /plan': (visit) => {
        visit.parted();
        return shopPage(
          'Plan',
          `<h1>Plan</h1><button id="go">Draw</button><p id="plan">…</p>`,
          `let n = 0; const part = () => { const end = performance.now() + 12; let x = 0; for (let i = 0; i < 7e6; i++) x += Math.sqrt(i); if (++n < 24) setTimeout(part); else document.getElementById('plan').textContent = '64 cabins'; }; document.getElementById('go').onclick = () => setTimeout(part);`,
        );
      },
    },
    async test(t) {
      await t.open('/plan');
      for (let i = 0; i < 6; i++) await t.text('h1');
      await t.click('#go');
      await t.until('#plan', /cabins/, 1300);
    },
  },
  {
    id: 'animation-waited-for',
    cause: 'starved-machine',
    hogs: many,
    suite: 'gangway',
    title: 'lowers the gangway',
    about: 'The gangway comes down frame by frame; with the machine used up, frames are rare.',
    site: {
      'GET /gangway': (visit) => {
        visit.parted();
        return shopPage(
          'Gangway',
          `<h1>Gangway</h1><button id="go">Lower</button><p id="state">up</p><div id="way" style="height:0;background:#cde"></div>`,
          `let h = 0; const down = () => { h += 4; document.getElementById('way').style.height = h + 'px'; let x = 0; for (let i = 0; i < 4e6; i++) x += Math.sqrt(i); if (h < 110) requestAnimationFrame(down); else document.getElementById('state').textContent = 'down'; }; document.getElementById('go').onclick = () => requestAnimationFrame(down);`,
        );
      },
    },
    async test(t) {
      await t.open('/gangway');
      await t.check('heading', await t.text('h1'), 'Gangway');
      for (let i = 0; i < 5; i++) await t.find('#state');
      await t.click('#go');
      await t.until('#state', /down/, 1200);
    },
  },
  {
    id: 'list-built-by-parts',
    cause: 'starved-machine',
    held: true,
    hogs: many,
    suite: 'manifest',
    title: 'builds the manifest',
    about: 'A long list is sorted again and again while it is built; on a used-up machine it is not there in time.',
    site: {
      'GET /manifest': (visit) => {
        visit.parted();
        return shopPage(
          'Manifest',
          `<h1>Manifest</h1><button id="go">Build</button><p class="ready">waiting</p><ol></ol>`,
          `let k = 0; const more = () => { const a = Array.from({ length: 40000 }, (_, i) => (i * 7919) % 40009); a.sort((x, y) => x - y); const li = document.createElement('li'); li.textContent = 'Passenger ' + ++k; document.querySelector('ol').append(li); if (k < 14) setTimeout(more); else document.querySelector('.ready').textContent = 'complete'; }; document.getElementById('go').onclick = () => setTimeout(more);`,
        );
      },
    },
    async test(t) {
      await t.open('/manifest');
      for (let i = 0; i < 6; i++) await t.find('h1');
      await t.click('#go');
      await t.until('.ready', /complete/, 1000);
    },
  },
];
