import { strategyOf } from '../evidence/locator.ts';

/** A locator with its remembered values put in. */
export interface PlainLocator {
  by: string;
  value: string;
  named?: string;
}

/** Elements that have a role without saying so (HTML Accessibility API Mappings), those that tests look for. */
const native: Readonly<Record<string, string>> = {
  button: 'self::button or self::summary or (self::input and (@type="button" or @type="submit" or @type="reset"))',
  link: 'self::a[@href]',
  heading: 'self::h1 or self::h2 or self::h3 or self::h4 or self::h5 or self::h6',
  textbox:
    'self::textarea or (self::input and (not(@type) or @type="text" or @type="email" or @type="tel" or @type="url"))',
  checkbox: 'self::input[@type="checkbox"]',
  radio: 'self::input[@type="radio"]',
  combobox: 'self::select[not(@multiple)]',
  listbox: 'self::select[@multiple]',
  option: 'self::option',
  list: 'self::ul or self::ol',
  listitem: 'self::li',
  table: 'self::table',
  row: 'self::tr',
  cell: 'self::td',
  columnheader: 'self::th',
  dialog: 'self::dialog',
  navigation: 'self::nav',
  main: 'self::main',
  img: 'self::img',
  form: 'self::form',
  searchbox: 'self::input[@type="search"]',
  spinbutton: 'self::input[@type="number"]',
  progressbar: 'self::progress',
};

/** A text as XPath writes it, whatever quotes it holds. */
export function inXPath(text: string): string {
  if (!text.includes('"')) return `"${text}"`;
  if (!text.includes("'")) return `'${text}'`;
  return `concat(${text
    .split('"')
    .map((part) => `"${part}"`)
    .join(`, '"', `)})`;
}

/** Whether an element is called so: by its own label, what it shows, its value, title, picture or the label beside it. */
function isCalled(name: string): string {
  const q = inXPath(name);
  const ways = [
    `normalize-space(@aria-label)=${q}`,
    `(not(@aria-label) and normalize-space(.)=${q})`,
    `(self::input and (@type="button" or @type="submit") and @value=${q})`,
    `@alt=${q}`,
    `(not(normalize-space(.)) and @title=${q})`,
    `@id=//label[normalize-space(.)=${q}]/@for`,
    `ancestor::label[normalize-space(.)=${q}]`,
    `@aria-labelledby=//*[normalize-space(.)=${q}]/@id`,
  ];
  return ways.join(' or ');
}

/**
 * What is asked of the protocol for a drill's locator. Those that say what a person sees become an XPath, so that any
 * engine finds them alike and evidence names them.
 * @returns strategy and value of WebDriver's “find element”
 */
export function wireLocator({ by, value, named }: PlainLocator, inside = false): { using: string; value: string } {
  const from = inside ? './/' : '//';
  switch (by) {
    case 'test id':
      return { using: 'css selector', value: `[data-testid=${JSON.stringify(value)}]` };
    case 'shown':
      return {
        using: 'xpath',
        value: `${from}*[not(self::script or self::style) and normalize-space(.)=${inXPath(value)} and not(*[normalize-space(.)=${inXPath(value)}])]`,
      };
    case 'label':
      return {
        using: 'xpath',
        value: `${from}*[(self::input or self::select or self::textarea or @role) and (${isCalled(value)})]`,
      };
    case 'role': {
      const own = Object.hasOwn(native, value) ? ` or (not(@role) and (${native[value]}))` : '';
      const name = named === undefined ? '' : ` and (${isCalled(named)})`;
      return { using: 'xpath', value: `${from}*[(@role=${inXPath(value)}${own})${name}]` };
    }
    default:
      return { using: strategyOf(by) ?? by, value };
  }
}
