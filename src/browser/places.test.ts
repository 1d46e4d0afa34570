import { describe, expect, it } from 'vitest';
import { cannot, abilitiesOf } from './abilities.ts';
import type { Place } from './place.ts';
import { Places } from './places.ts';
import { engineNamed } from './recording/engine-asked.ts';

const place = (name: string, remote = false, engine = name): Place =>
  ({
    name,
    engine,
    remote,
    answersTo: (browser: string) => engineNamed(browser) === engine || browser === name,
  }) as Place;
const both = new Places([place('chromium'), place('webkit'), place('yard', true, 'firefox')]);
const onlyChromium = new Places([place('chromium')]);
const named = (found: Place | string): string => (typeof found === 'string' ? found : found.name);

describe('the place of a new session', () => {
  it.each([
    ['chrome', 'chromium'],
    ['chromium', 'chromium'],
    ['webkit', 'webkit'],
    ['MiniBrowser', 'webkit'],
    ['Safari', 'webkit'],
    ['firefox', 'yard'],
  ])('%s is had from %s', (browserName, name) => {
    expect(named(both.asked({ alwaysMatch: { browserName } }))).toBe(name);
  });

  it('none named, or one nobody here knows, is left to the first driver to answer', () => {
    for (const capabilities of [undefined, {}, { alwaysMatch: {} }, { alwaysMatch: { browserName: 'netsurf' } }, 'x'])
      expect(named(both.asked(capabilities))).toBe('chromium');
  });

  it('of alternatives the first that is here', () => {
    const firstMatch = [{ browserName: 'webkit' }, { browserName: 'chrome' }];
    expect(named(both.asked({ firstMatch }))).toBe('webkit');
    expect(named(onlyChromium.asked({ firstMatch }))).toBe('chromium');
  });

  it('one that is missing says how to have it', () => {
    expect(onlyChromium.asked({ alwaysMatch: { browserName: 'webkit' } })).toMatch(/webkit .*apt-get install/);
    expect(new Places([]).asked({})).toMatch(/no browser on this machine; run: apt-get install chromium/);
  });

  it('a name is taken before anything else, and one of nothing is told what there is', () => {
    expect(named(both.asked({ alwaysMatch: { browserName: 'chrome' } }, 'yard'))).toBe('yard');
    expect(both.asked({}, 'quay')).toBe('there is no place “quay”; there are chromium, webkit, yard');
  });
});

it('what cannot be had is said in sentences, and nothing where all can', () => {
  expect(cannot(abilitiesOf.chromium)).toEqual([]);
  expect(cannot(abilitiesOf.webkit).join(' ')).toMatch(/only commands and pictures.*session of its own/);
  expect(cannot({ ...abilitiesOf.webkit, screen: false })[0]).toMatch(/only commands: /);
  expect(cannot({ ...abilitiesOf.firefox, bodies: false, contexts: false })).toHaveLength(3);
});
