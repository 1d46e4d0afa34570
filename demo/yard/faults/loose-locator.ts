import type { Mechanism } from '../mechanism.ts';
import { shopPage } from '../shop-page.ts';

export const looseLocator: Mechanism[] = [
  {
    id: 'advert-among-offers',
    cause: 'loose-locator',
    suite: 'offers',
    title: 'opens the first offer',
    about: 'An advert is put first among the offers, and the first link is taken.',
    site: {
      'GET /offers': (visit) => {
        visit.parted();
        const advert = visit.hurts ? '<p class="offer"><a href="/offers/hotel">Harbour hotel, two nights</a></p>' : '';
        return shopPage(
          'Offers',
          `<h1>Offers</h1>${advert}<p class="offer"><a href="/offers/winter">Winter crossing</a></p><p class="offer"><a href="/offers/school">School trip</a></p>`,
        );
      },
      'GET /offers/winter': () => shopPage('Winter crossing', '<h1>Winter crossing</h1>'),
      'GET /offers/hotel': () => shopPage('Harbour hotel', '<h1>Harbour hotel</h1>'),
    },
    async test(t) {
      await t.open('/offers');
      await t.click('.offer a');
      await t.check('heading', await t.until('h1'), 'Winter crossing');
    },
  },
  {
    id: 'second-choose-on-top',
    cause: 'loose-locator',
    suite: 'cabins',
    title: 'chooses a cabin by its button',
    about: 'A recommended cabin brings a second button with the same words, above the one that is meant.',
    site: {
      'GET /cabins': (visit) => {
        visit.parted();
        const more = visit.hurts ? '<section><h2>Recommended</h2><p>Suite 1 <button>Choose</button></p></section>' : '';
        return shopPage(
          'Cabins',
          `<h1>Cabins</h1>${more}<section><p>Cabin 7 <button>Choose</button></p></section><output id="choice"></output>`,
          `for (const b of document.querySelectorAll('button')) b.onclick = () => { document.getElementById('choice').textContent = b.parentNode.firstChild.textContent.trim(); };`,
        );
      },
    },
    async test(t) {
      await t.open('/cabins');
      await t.click('//button[text()="Choose"]');
      await t.check('choice', await t.text('#choice'), 'Cabin 7');
    },
  },
  {
    id: 'newsletter-field-first',
    cause: 'loose-locator',
    held: true,
    suite: 'contact',
    title: 'sends a message to the harbour office',
    about: 'A newsletter field stands above the form in some visits; the name is typed into it.',
    site: {
      'GET /contact': (visit) => {
        visit.parted();
        const letter = visit.hurts
          ? '<form class="letter"><input type="text" placeholder="Your e-mail" /> <button type="button">Subscribe</button></form>'
          : '';
        return shopPage(
          'Contact',
          `${letter}<h1>Harbour office</h1><form id="f"><input type="text" placeholder="Your name" /><textarea></textarea><button type="button" id="send">Send</button></form><output id="sent"></output>`,
          `document.getElementById('send').onclick = () => { document.getElementById('sent').textContent = 'Thank you, ' + (document.querySelector('#f input').value || 'nobody'); };`,
        );
      },
    },
    async test(t) {
      await t.open('/contact');
      await (await t.find('input[type=text]')).type('Ece');
      await t.click('#send');
      await t.check('thanks', await t.text('#sent'), 'Thank you, Ece');
    },
  },
];
