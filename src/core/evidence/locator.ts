import type { Locator } from './event.ts';

const strategies: Record<string, string> = {
  'css selector': 'css',
  xpath: 'xpath',
  'link text': 'link',
  'partial link text': 'partial link',
  'tag name': 'tag',
};

/** Short name of a WebDriver location strategy, as drills and screens write it. */
export const strategyName = (using: string): string => strategies[using] ?? using;

/** The WebDriver strategy behind a short name; undefined when there is none. */
export function strategyOf(name: string): string | undefined {
  return Object.keys(strategies).find((using) => strategies[using] === name);
}

/**
 * Identity of a locator: equal keys mean the same question put to the page.
 * @example locatorKey({ using: 'css selector', value: '#a' }) // 'css=#a'
 */
export function locatorKey(locator: Locator): string {
  const own = `${strategyName(locator.using)}=${locator.value}${locator.index ? `[${locator.index}]` : ''}`;
  return locator.within ? `${locatorKey(locator.within)} >> ${own}` : own;
}

/** A locator as a person would read it, without its strategy where that is plain. */
export function locatorText(locator: Locator): string {
  const text =
    strategyName(locator.using) === 'css' ? locator.value : `${strategyName(locator.using)} ${locator.value}`;
  const own = locator.index ? `${text} (match ${locator.index + 1})` : text;
  return locator.within ? `${own} in ${locatorText(locator.within)}` : own;
}
