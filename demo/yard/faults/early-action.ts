import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const earlyAction: Mechanism[] = [
  {
    id: 'gate-script-late',
    cause: 'early-action',
    suite: 'boarding',
    title: 'chooses a gate',
    about: 'The script that makes the gates work comes late; the press before it does nothing.',
    site: {
      'GET /boarding/gates': () =>
        shopPage(
          'Gates',
          `<h1>Choose a gate</h1><button class="gate">Gate A</button> <button class="gate">Gate B</button><p id="gate"></p>`,
          `addEventListener('load', () => setTimeout(() => { const s = document.createElement('script'); s.src = '/boarding/gates.js'; document.body.append(s); }));`,
        ),
      'GET /boarding/gates.js': async (visit, c) => {
        if (visit.hurts) {
          visit.parted(40);
          await sleep(visit.draw(900, 1200));
        }
        return c.body(
          `for (const b of document.querySelectorAll('.gate')) b.onclick = () => { document.getElementById('gate').textContent = b.textContent + ' chosen'; };`,
          200,
          { 'content-type': 'text/javascript' },
        );
      },
    },
    async test(t) {
      await t.open('/boarding/gates');
      await t.check('heading', await t.text('h1'), 'Choose a gate');
      await t.sleep(200);
      await t.click('//button[contains(., "Gate B")]');
      await t.until('#gate', /Gate B/, 1200);
    },
  },
  {
    id: 'menu-filtered-early',
    cause: 'early-action',
    suite: 'galley',
    title: 'filters the menu',
    about: 'The filter is typed before the menu has come, which then shows unfiltered.',
    site: {
      'GET /galley': () =>
        shopPage(
          'Galley',
          `<h1>On board</h1><label for="dish">Dish</label> <input id="dish" /><ul id="menu"></ul><p id="picked"></p>`,
          `let dishes = []; const menu = document.getElementById('menu'); const box = document.getElementById('dish');
           const draw = (list) => { menu.innerHTML = ''; for (const d of list) { const li = document.createElement('li'); li.textContent = d; li.onclick = () => { document.getElementById('picked').textContent = d; }; menu.append(li); } };
           box.oninput = () => { if (dishes.length) draw(dishes.filter((d) => d.startsWith(box.value))); };
           fetch('/galley/dishes').then((r) => r.json()).then((list) => { dishes = list; draw(list); });`,
        ),
      'GET /galley/dishes': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(600, 800));
        }
        return { data: ['Ayran', 'Börek', 'Simit', 'Soup'] };
      },
    },
    async test(t) {
      await t.open('/galley');
      await t.sleep(150);
      await (await t.find('#dish')).type('Si');
      await t.until('#menu li');
      await t.click('#menu li');
      await t.check('dish', await t.text('#picked'), 'Simit');
    },
  },
  {
    id: 'crew-button-disabled',
    cause: 'early-action',
    held: true,
    suite: 'crew',
    title: 'confirms the crew',
    about: 'The button is pressed while it is still disabled, which does nothing.',
    site: {
      'GET /crew/confirm': () =>
        shopPage(
          'Crew',
          `<h1>Evening crew</h1><p class="rules">Loading the rules…</p><button id="confirm" disabled>Confirm crew</button><output id="done"></output>`,
          `const b = document.getElementById('confirm'); b.onclick = () => { document.getElementById('done').textContent = 'Crew confirmed'; };
           addEventListener('load', () => setTimeout(() => fetch('/crew/rules').then((r) => r.json()).then((d) => { document.querySelector('.rules').textContent = d.text; b.disabled = false; }), 20));`,
        ),
      'GET /crew/rules': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(2300, 2600));
        }
        return { data: { text: 'Rest of eleven hours kept.' } };
      },
    },
    async test(t) {
      await t.open('/crew/confirm');
      await t.check('heading', await t.text('h1'), 'Evening crew');
      await t.sleep(250);
      await t.click('#confirm');
      await t.until('#done', /confirmed/, 1000);
    },
  },
  {
    id: 'request-sent-before-its-scan',
    cause: 'early-action',
    suite: 'papers',
    title: 'hands in a passport scan',
    about: 'The request is sent while the scan is still being uploaded, and goes without it.',
    site: {
      'GET /papers': () =>
        shopPage(
          'Papers',
          `<h1>Travel papers</h1><input id="scan" type="file" aria-label="Scan" /><div role="button" tabindex="0" class="send">Hand in</div><p role="status"></p>`,
          `let paper; const said = document.querySelector('[role=status]');
           document.getElementById('scan').onchange = (e) => fetch('/papers/scan', { method: 'POST', body: e.target.files[0] }).then((r) => r.json()).then((d) => { paper = d.paper; });
           document.querySelector('.send').onclick = () => { said.textContent = paper ? 'Handed in with ' + paper : 'Handed in without a scan'; };`,
        ),
      'POST /papers/scan': async (visit, c) => {
        await c.req.arrayBuffer();
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(700, 950));
        }
        return { data: { paper: 'scan 1' } };
      },
    },
    async test(t) {
      await t.open('/papers');
      await t.upload('#scan', 'passport-scan.txt');
      await t.sleep(250);
      await t.click('[role=button].send');
      await t.check('status', await t.text('[role=status]'), 'Handed in with scan 1');
    },
  },
];
