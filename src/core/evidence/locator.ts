import type { Locator } from './event.ts';

const strategies: Record<string, string> = {
  'css selector': 'css',
  xpath: 'xpath',
  'link text': 'link',
  'partial link text': 'partial link',
  'tag name': 'tag',
};

/** The strategy of elements that a script of the test hands out; its value is the script. */
export const byScript = 'by script';

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

/** What a script that looks for an element looks for: the words it holds last, else the script itself. */
export const wordsOfScript = (script: string): string =>
  [...script.matchAll(/"([^"]{2,40})"|'([^']{2,40})'|`([^`]{2,40})`/g)].at(-1)?.slice(1).find(Boolean) ?? script;

/** A locator as a person would read it, without its strategy where that is plain. */
export function locatorText(locator: Locator): string {
  const { using, value } = locator;
  const plain = using === byScript ? `${byScript} ${wordsOfScript(value)}` : `${strategyName(using)} ${value}`;
  const text = strategyName(using) === 'css' ? value : plain;
  const own = locator.index ? `${text} (match ${locator.index + 1})` : text;
  return locator.within ? `${own} in ${locatorText(locator.within)}` : own;
}
