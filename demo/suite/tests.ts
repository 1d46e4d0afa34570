import { arrived, until, type WebDriver } from './webdriver.ts';

/** One test of the ferry suite. */
export interface FerryTest {
  suite: string;
  title: string;
  file: string;
  tags: string[];
  run: (page: Page) => Promise<void>;
}

/** What a test is given: the driver, the site's address, and the suite's own check helper. */
export interface Page {
  driver: WebDriver;
  site: string;
  expect: (label: string, actual: unknown, expected: unknown) => Promise<void>;
}

export const ferryTests: FerryTest[] = [
  {
    suite: 'timetable',
    title: 'lists the sailings of a day',
    file: 'demo/suite/tests.ts',
    tags: ['smoke'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings?to=Kuzu%20Island`);
      const count = await driver.find('.count');
      await expect('number of sailings', await count.text(), '4 sailings');
      const rows = await driver.findAll('.timetable tr');
      await expect('rows with heading', rows.length, 5);
    },
  },
  {
    suite: 'timetable',
    title: 'marks cancelled sailings',
    file: 'demo/suite/tests.ts',
    tags: [],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings?to=Kuzu%20Island`);
      const state = await driver.find('.cancelled .state');
      await expect('state of the noon sailing', await state.text(), 'cancelled');
    },
  },
  {
    suite: 'booking / ports',
    title: 'suggests ports as one types',
    file: 'demo/suite/tests.ts',
    tags: ['booking'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/`);
      const port = await driver.find('#port');
      await port.click();
      await port.type('Kuzu');
      const first = await until(
        async () => {
          const option = await driver.find('#suggestions li');
          return (await option.displayed()) ? option : undefined;
        },
        (option) => option !== undefined,
        'the first suggestion',
      );
      await first!.click();
      await expect('port taken over', await port.value(), 'Kuzu Island');
      const search = await driver.find('#search button');
      await search.click();
      await expect('heading', await arrived(driver, 'h1', /^Sailings/), 'Sailings to Kuzu Island');
    },
  },
  {
    suite: 'booking / ports',
    title: 'accepts a port with an apostrophe',
    file: 'demo/suite/tests.ts',
    tags: ['booking'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/`);
      const port = await driver.find('#port');
      await port.type("Shepherd's Quay");
      await (await driver.find('#search button')).click();
      await expect('number of sailings', await arrived(driver, '.count'), '1 sailings');
    },
  },
  {
    suite: 'booking / holds',
    title: 'holds a seat on the evening sailing',
    file: 'demo/suite/tests.ts',
    tags: ['smoke', 'booking'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings/e-1840`);
      await expect('heading', await (await driver.find('h1')).text(), 'Evening sailing 18:40 → Kuzu Island');
      const hold = await driver.find('#hold');
      const passenger = await driver.find('#passenger');
      await passenger.type('Deniz O’Rourke');
      await until(
        async () => (await driver.find('.fare')).text(),
        (fare) => /^\d+$/.test(fare),
        'the fare',
      );
      await hold.click();
      const held = await until(
        async () => (await driver.find('#held')).text(),
        (text) => text.length > 0,
        'the hold',
      );
      await expect('hold', held, 'Seat 2A held for Deniz O’Rourke. Go to checkout');
    },
  },
  {
    suite: 'booking / extras',
    title: 'adds a bicycle to the hold',
    file: 'demo/suite/tests.ts',
    tags: ['booking'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings/m-0710`);
      await until(
        async () => (await driver.find('.fare')).text(),
        (fare) => /^\d+$/.test(fare),
        'the fare',
      );
      await (await driver.find('#passenger')).type('Ada Yılmaz');
      await (await driver.find('[data-seat="3B"]')).click();
      await (await driver.find('input[name="bicycle"]')).click();
      await new Promise((done) => setTimeout(done, 300));
      await (await driver.find('#hold')).click();
      const link = await until(async () => driver.link('Go to checkout'), Boolean, 'the link to checkout');
      await link.click();
      await expect('total', await arrived(driver, '.total'), '363');
    },
  },
  {
    suite: 'checkout',
    title: 'opens the boarding pass in a new window',
    file: 'demo/suite/tests.ts',
    tags: ['smoke'],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings/l-2130`);
      await until(
        async () => (await driver.find('.fare')).text(),
        (fare) => /^\d+$/.test(fare),
        'the fare',
      );
      await (await driver.find('#passenger')).type('Mert Kaya');
      await (await driver.find('#hold')).click();
      await (await until(async () => driver.link('Go to checkout'), Boolean, 'the link to checkout')).click();
      await arrived(driver, '.total');
      await (await driver.find('#card')).type('0000 1111 2222 3333');
      await (await driver.find('#code')).type('made-up passphrase');
      await (await driver.find('#pay button')).click();
      await (await until(async () => driver.link('Boarding pass'), Boolean, 'the boarding pass link')).click();
      const handles = await until(
        () => driver.windows(),
        (all) => all.length === 2,
        'the second window',
      );
      await driver.toWindow(handles[1]!);
      await expect('heading', await arrived(driver, 'h1'), 'Boarding pass');
      await expect('passenger', await (await driver.find('.holder')).text(), 'Mert Kaya');
    },
  },
  {
    suite: 'checkout',
    title: 'keeps the hold while paying',
    file: 'demo/suite/tests.ts',
    tags: [],
    run: async ({ driver, site, expect }) => {
      await driver.open(`${site}/sailings/e-1840`);
      await until(
        async () => (await driver.find('.fare')).text(),
        (fare) => /^\d+$/.test(fare),
        'the fare',
      );
      await (await driver.find('#passenger')).type('Selin Ak');
      await (await driver.find('[data-seat="4C"]')).click();
      await (await driver.find('#hold')).click();
      await (await until(async () => driver.link('Go to checkout'), Boolean, 'the link to checkout')).click();
      await expect('seat', await arrived(driver, '.seat-name'), '4C');
    },
  },
];
