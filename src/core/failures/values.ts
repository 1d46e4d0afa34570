import { legible } from './legible.ts';

/** Expected and actual values in the wordings of many assertion libraries. */

export interface Values {
  expected: string;
  actual: string;
}

const quoted = String.raw`"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|“([^”]*)”|<([^<>]*)>|${'`'}([^${'`'}]*)${'`'}`;
/** A value in quotes, or a bare number, word of logic, or single token. */
const value = String.raw`(?:${quoted}|(-?\d[\d.,_]*\d|\d|true|false|null|nil|None|undefined|True|False|NaN))`;
const perValue = 6;

interface Wording {
  pattern: RegExp;
  expectedFirst: boolean;
}

const rest = String.raw`[ \t]*(\S[^\n]*)`;

/** On lines of their own: the whole rest of the line is the value. */
const lines: Wording[] = [
  {
    pattern: new RegExp(
      String.raw`(?:^|\n)[# \t]*expected(?: value| string| text)?\s*[:=]${rest}\n[# \t]*(?:actual(?: value| string| text)?|received(?: string| value)?|got|but was|found|but|result)\s*[:=]+\s*(?:was )?${rest}`,
      'i',
    ),
    expectedFirst: true,
  },
  {
    pattern: new RegExp(
      String.raw`(?:^|\n)[# \t]*(?:got|actual|received|found)\s*[:=]${rest}\n[# \t]*(?:expected|wanted|want)\s*[:=]${rest}`,
      'i',
    ),
    expectedFirst: false,
  },
  {
    pattern: new RegExp(
      String.raw`expecting(?: actual)?:\s*\n?${rest}\s*\n\s*to (?:be equal to|equal|contain|be|match|start with):?\s*\n?${rest}`,
      'i',
    ),
    expectedFirst: false,
  },
  { pattern: new RegExp(String.raw`with expansion:\s*\n\s*(\S[^\n]*?) == (\S[^\n]*)`, 'i'), expectedFirst: false },
  {
    pattern: /(?:^|\n)--- expected[^\n]*\n\+\+\+ actual[^\n]*\n@@[^\n]*\n(?: [^\n]*\n)*-([^\n]*)\n\+([^\n]*)/i,
    expectedFirst: true,
  },
  // The lines between hold neither sign: the first that does begins the difference.
  {
    pattern: /\+ actual - expected[^\n]*\n(?:(?![+-])[^\n]*\n){0,20}\+ ?([^\n]+)\n- ?([^\n]+)/,
    expectedFirst: false,
  },
];

/** Inside a sentence: only what is quoted or plainly one value. */
const sentences: Wording[] = [
  {
    pattern: new RegExp(
      String.raw`expected:?\s*(?:value |string |is |equal to )?${value}[^"'“<${'`'}\d]{0,40}?(?:but (?:was|got|received|found|it was|actual(?:ly)?(?: was)?)|actual|received|got|found|instead got)[:\s]*${value}`,
      'i',
    ),
    expectedFirst: true,
  },
  {
    pattern: new RegExp(
      String.raw`expected:?\s*${value}\s+to (?:deeply |strictly |loosely )?(?:be equal to|be|equal|eql?|match|include|contain|have (?:text|value|property|length))[:\s]*(?:of )?${value}`,
      'i',
    ),
    expectedFirst: false,
  },
  {
    pattern: new RegExp(
      String.raw`${value}\s+(?:should (?:be|equal|have been|match)|was expected to (?:be|equal)|is not equal to|does not (?:equal|match)|did not equal|was not equal to|doesn't match)\s*(?:to )?${value}`,
      'i',
    ),
    expectedFirst: false,
  },
  {
    pattern: new RegExp(String.raw`\bgot:?\s*${value},?\s*(?:but )?(?:want(?:ed)?|expected)[:\s]*${value}`, 'i'),
    expectedFirst: false,
  },
  {
    pattern: new RegExp(
      String.raw`\b(?:want(?:ed)?|expected|should be|should have been)[:\s]*${value},?\s*(?:but )?(?:got|was|is|received|found|have)[:\s]*${value}`,
      'i',
    ),
    expectedFirst: true,
  },
  {
    pattern: new RegExp(
      String.raw`failed asserting that ${value} (?:matches expected|is identical to|equals|is equal to) ${value}`,
      'i',
    ),
    expectedFirst: false,
  },
  {
    pattern: new RegExp(String.raw`assert(?:ion(?:error)?)?\b[^\n]{0,30}?${value}\s*={2,3}\s*${value}`, 'i'),
    expectedFirst: false,
  },
  { pattern: new RegExp(String.raw`${value}\s*!==?\s*${value}`), expectedFirst: false },
];

const equality =
  /expected equality of these values:[^\S\n]*\n\s*(\S[^\n]*)(?:\n\s+which is: ([^\n]*))?\n\s*(\S[^\n]*)(?:\n\s+which is: ([^\n]*))?/i;

/** What is told within a sentence is told before this. */
const longestSentence = 6000;

/** @returns undefined when the wording is not one we know: nothing is guessed */
export function readValues(message: string): Values | undefined {
  const text = legible(message);
  const equal = equality.exec(text);
  // The two sides stand in the order the test wrote them; the one that was computed is the actual one.
  if (equal) {
    const [, first, firstIs, second, secondIs] = equal;
    if (firstIs === undefined && secondIs !== undefined) return { expected: plain(first!), actual: plain(secondIs) };
    return { expected: plain(secondIs ?? second!), actual: plain(firstIs ?? first!) };
  }
  for (const { pattern, expectedFirst } of lines) {
    const found = pattern.exec(text);
    if (found) return ordered(plain(found[1]!), plain(found[2]!), expectedFirst);
  }
  const sentence = text.slice(0, longestSentence);
  for (const { pattern, expectedFirst } of sentences) {
    const found = pattern.exec(sentence);
    if (!found) continue;
    const first = found.slice(1, 1 + perValue).find((part) => part !== undefined) ?? '';
    const second = found.slice(1 + perValue, 1 + 2 * perValue).find((part) => part !== undefined) ?? '';
    return ordered(unmarked(first), unmarked(second), expectedFirst);
  }
  return undefined;
}

const ordered = (first: string, second: string, expectedFirst: boolean): Values =>
  expectedFirst ? { expected: first, actual: second } : { expected: second, actual: first };

/** Some mark the part that differs: `fare [40]`. Brackets around the whole may be the value's own, and stay. */
const unmarked = (text: string): string =>
  /^[^[\]]*\[[^[\]]*\][^[\]]*$/.test(text) && !/^\[.*\]$/.test(text) ? text.replace(/[[\]]/g, '') : text;

function plain(text: string): string {
  const trimmed = text.trim().replace(/^(?:is|was|equal to|a string equal to) (?=["'<“])/i, '');
  const inner =
    /^(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|“([^”]*)”|<([^<>]*)>|`([^`]*)`)[,.;]?(?: \((?:[\w.]+|\d+ chars?)\))?$/.exec(
      trimmed,
    );
  return unmarked(inner ? (inner.slice(1).find((part) => part !== undefined) ?? '') : trimmed);
}
