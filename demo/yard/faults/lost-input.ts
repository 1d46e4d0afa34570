import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const lostInput: Mechanism[] = [
  {
    id: 'profile-fills-over-typed',
    cause: 'lost-input',
    suite: 'profile',
    title: 'changes the family name',
    about: 'What was typed is overwritten when the profile comes.',
    site: {
      'GET /name': () =>
        shopPage(
          'Name',
          `<h1>Your name</h1><input id="name" /><button id="keep">Keep</button><output id="kept"></output>`,
          `document.getElementById('keep').onclick = () => { document.getElementById('kept').textContent = 'Kept ' + document.getElementById('name').value; };
           fetch('/name/profile').then((r) => r.json()).then((d) => { document.getElementById('name').value = d.name; });`,
        ),
      'GET /name/profile': async (visit) => {
        if (visit.hurts) {
          visit.parted(30);
          await sleep(visit.draw(900, 1000));
        }
        return { data: { name: '' } };
      },
    },
    async test(t) {
      await t.open('/name');
      await t.sleep(150);
      await (await t.find('#name')).type('Karaca');
      await t.sleep(1000);
      await t.click('#keep');
      await t.check('kept', await t.text('#kept'), 'Kept Karaca');
    },
  },
  {
    id: 'mask-eats-characters',
    cause: 'lost-input',
    suite: 'phone',
    title: 'takes a telephone number',
    about: 'The field formats what is typed a moment later, and loses what came meanwhile.',
    site: {
      'GET /phone': (visit) => {
        visit.parted(120);
        return shopPage(
          'Telephone',
          `<h1>Telephone</h1><input id="phone" /><button id="ok">OK</button><output id="said"></output>`,
          `const f = document.getElementById('phone');
           f.oninput = () => { const now = f.value; ${visit.hurts ? 'if (now.length === 4) setTimeout(() => { f.value = now; }, 60);' : ''} };
           document.getElementById('ok').onclick = () => { document.getElementById('said').textContent = 'We call ' + f.value; };`,
        );
      },
    },
    async test(t) {
      await t.open('/phone');
      await (await t.find('#phone')).type('5550114477');
      await t.sleep(150);
      await t.click('#ok');
      await t.check('number', await t.text('#said'), 'We call 5550114477');
    },
  },
  {
    id: 'focus-goes-elsewhere',
    cause: 'lost-input',
    held: true,
    suite: 'harbour',
    title: 'notes a berth',
    about: 'The focus is taken away by another field while the test is typing.',
    site: {
      'GET /berth': (visit) => {
        visit.parted(120);
        return shopPage(
          'Berth',
          `<h1>Berth</h1><input id="berth" /> <input id="remark" placeholder="Remark" /><button id="note">Note it</button><output id="noted"></output>`,
          `const b = document.getElementById('berth'); ${visit.hurts ? "b.oninput = () => { if (b.value.length === 2) document.getElementById('remark').focus(); };" : ''}
           document.getElementById('note').onclick = () => { document.getElementById('noted').textContent = 'Berth ' + b.value; };`,
        );
      },
    },
    async test(t) {
      await t.open('/berth');
      await (await t.find('#berth')).type('North 14');
      await t.click('#note');
      await t.check('noted', await t.text('#noted'), 'Berth North 14');
    },
  },
];
