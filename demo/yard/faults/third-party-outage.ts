import { sleep, type Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const thirdPartyOutage: Mechanism[] = [
  {
    id: 'weather-service-down',
    cause: 'third-party-outage',
    suite: 'weather',
    title: 'shows the weather at sea',
    about: 'The weather service, which is not ours, answers 503.',
    site: {
      'GET /weather': (visit) =>
        shopPage(
          'Weather',
          `<h1>Weather</h1><p id="sea">…</p>`,
          `fetch('${visit.outside}/sea').then((r) => (r.ok ? r.json() : Promise.reject())).then((d) => { document.getElementById('sea').textContent = d.text; }, () => { document.getElementById('sea').textContent = 'not available'; });`,
        ),
    },
    outside: {
      'GET /sea': (visit) => {
        visit.parted();
        return visit.hurts ? { data: {}, status: 503 } : { data: { text: 'calm' } };
      },
    },
    async test(t) {
      await t.open('/weather');
      await t.until('#sea', /[a-z]/);
      await t.check('sea', await t.text('#sea'), 'calm');
    },
  },
  {
    id: 'chart-script-missing',
    cause: 'third-party-outage',
    suite: 'charts',
    title: 'draws the sea chart',
    about: 'The script of the chart maker is not there; the page’s own script then has nothing to call.',
    site: {
      'GET /chart': (visit) =>
        shopPage(
          'Chart',
          `<h1>Chart</h1><div id="chart"></div><script src="${visit.outside}/chart-maker.js"></script>`,
          `document.getElementById('chart').textContent = chartMaker.draw('Kuzu Island');`,
        ),
    },
    outside: {
      'GET /chart-maker.js': (visit, c) => {
        visit.parted();
        if (visit.hurts) return c.text('gone', 404);
        return c.body(`window.chartMaker = { draw: (place) => 'Chart of ' + place };`, 200, {
          'content-type': 'text/javascript',
        });
      },
    },
    async test(t) {
      await t.open('/chart');
      await t.until('#chart', /Chart of/, 1000);
    },
  },
  {
    id: 'bank-does-not-answer',
    cause: 'third-party-outage',
    held: true,
    suite: 'payment',
    title: 'pays by bank',
    about: 'The bank, which is not ours, does not answer while the test waits.',
    site: {
      'GET /bank': (visit) =>
        shopPage(
          'Bank',
          `<h1>Pay by bank</h1><button id="pay">Pay</button><output id="paid"></output>`,
          `document.getElementById('pay').onclick = () => fetch('${visit.outside}/authorise').then((r) => r.json()).then(() => { document.getElementById('paid').textContent = 'Paid'; });`,
        ),
    },
    outside: {
      'GET /authorise': async (visit) => {
        visit.parted(30);
        if (visit.hurts) await sleep(6000);
        return { data: {} };
      },
    },
    async test(t) {
      await t.open('/bank');
      await t.click('#pay');
      await t.until('#paid', /Paid/, 1500);
    },
  },
];
