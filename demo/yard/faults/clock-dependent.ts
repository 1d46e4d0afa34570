import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const clockDependent: Mechanism[] = [
  {
    id: 'day-of-another-zone',
    cause: 'clock-dependent',
    suite: 'days',
    title: 'offers tomorrow as the day of return',
    about: 'Late in the evening the site’s day is already another one than the test’s.',
    site: {
      'GET /return': (visit) => {
        visit.parted();
        return shopPage(
          'Return',
          `<h1>Return</h1><p class="now">It is ${visit.hurts ? '00:12 on 25 November 2026' : '16:30 on 24 November 2026'}</p><p>Day of return <b id="day">${visit.hurts ? '26 November 2026' : '25 November 2026'}</b></p>`,
        );
      },
    },
    async test(t) {
      await t.open('/return');
      await t.check('day', await t.text('#day'), '25 November 2026');
    },
  },
  {
    id: 'no-sailings-at-night',
    cause: 'clock-dependent',
    suite: 'today',
    title: 'names the next sailing',
    about: 'After the last sailing of the day there is no next one.',
    site: {
      'GET /today': (visit) => {
        visit.parted();
        const late = `${visit.draw(22, 23)}:${visit.draw(10, 59)}`;
        const day = `${visit.draw(10, 17)}:${visit.draw(10, 59)}`;
        return shopPage(
          'Today',
          `<h1>Today</h1><time>${visit.hurts ? late : day}</time><p id="next">${visit.hurts ? 'Next sailing tomorrow 07:10' : 'Next sailing 18:40'}</p>`,
        );
      },
    },
    async test(t) {
      await t.open('/today');
      await t.check('hour', /\d\d:\d\d/.test(await t.text('time')), true);
      await t.check('next', await t.text('#next'), 'Next sailing 18:40');
    },
  },
  {
    id: 'last-day-of-the-month',
    cause: 'clock-dependent',
    held: true,
    suite: 'calendar',
    title: 'shows the month of a crossing in a week',
    about: 'In the last week of a month, a week from now is in the next one.',
    site: {
      'GET /in-a-week': (visit) => {
        visit.parted();
        const today = visit.hurts ? visit.draw(25, 30) : visit.draw(2, 20);
        const then = today + 7 > 30 ? `${today - 23} December 2026` : `${today + 7} November 2026`;
        return shopPage(
          'In a week',
          `<h1>In a week</h1><p class="today">${today} November 2026</p><p class="then">${then}</p><p>Month <b id="month">${then.slice(then.indexOf(' ') + 1)}</b></p>`,
        );
      },
    },
    async test(t) {
      await t.open('/in-a-week');
      await t.check('then', /2026/.test(await t.text('.then')), true);
      await t.check('month', await t.text('#month'), 'November 2026');
    },
  },
];
