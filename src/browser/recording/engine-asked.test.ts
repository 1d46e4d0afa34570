import { describe, expect, it } from 'vitest';
import { engineAsked } from './engine-asked.ts';

const both = (): boolean => true;
const onlyChromium = (name: string): boolean => name === 'chromium';

describe('the engine a new session asks for', () => {
  it.each([
    ['chrome', 'chromium'],
    ['chromium', 'chromium'],
    ['webkit', 'webkit'],
    ['MiniBrowser', 'webkit'],
    ['Safari', 'webkit'],
  ])('%s is %s', (browserName, engine) => {
    expect(engineAsked({ alwaysMatch: { browserName } }, both)).toBe(engine);
  });

  it('none named, or one nobody here knows, is left to Chromium’s driver to answer', () => {
    for (const capabilities of [undefined, {}, { alwaysMatch: {} }, { alwaysMatch: { browserName: 'netsurf' } }, 'x'])
      expect(engineAsked(capabilities, both)).toBe('chromium');
  });

  it('of alternatives the first that is here, else the first that was named', () => {
    const firstMatch = [{ browserName: 'webkit' }, { browserName: 'chrome' }];
    expect(engineAsked({ firstMatch }, both)).toBe('webkit');
    expect(engineAsked({ firstMatch }, onlyChromium)).toBe('chromium');
    expect(engineAsked({ alwaysMatch: { browserName: 'webkit' } }, onlyChromium)).toBe('webkit');
  });
});
