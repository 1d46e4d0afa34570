import { quote, shorten } from '../evidence/labels.ts';
import type { MarkupElement } from '../evidence/markup.ts';
import { locatorText } from '../evidence/locator.ts';
import { literal } from '../patterns/literal.ts';
import type { ClueKind } from './clue.ts';
import { pageAtFailure } from './page-messages.ts';
import { momentOf } from './scene.ts';

/** A name by which a locator asks: of which attribute, and its value. */
interface Named {
  attribute: string;
  value: string;
}

const byId = /#(-?[a-z_][\w-]{0,80})/i;
const byAttribute = /\[\s*@?([\w-]{1,40})\s*=\s*["']?([^"'\]]{1,80})["']?\s*\]/;

/** The first name of a locator that holds a number. */
function namedWithNumber(locator: string): Named | undefined {
  const id = byId.exec(locator)?.[1];
  if (id !== undefined && /\d/.test(id)) return { attribute: 'id', value: id };
  const found = byAttribute.exec(locator);
  return found && /\d/.test(found[2]!) ? { attribute: found[1]!.toLowerCase(), value: found[2]! } : undefined;
}

/**
 * Names of the same make, differing in what a program counts or draws: a number, or a part that mixes letters and
 * digits. `u3-note` is like `u4-note`, `css-1k9z0q` like `css-8d2jq1`.
 */
export function alike(name: string): RegExp {
  const parts = name.split(/([-_.:])/).map((part) => {
    const counted = /^([a-z]*)\d+$/i.exec(part);
    if (counted) return `${counted[1]!}\\d+`;
    return /\d/.test(part) ? `[a-z0-9]{${Math.max(1, part.length - 2)},${part.length + 2}}` : literal(part);
  });
  return new RegExp(`^${parts.join('')}$`, 'i');
}

const numberOf = (name: string): number => Number(/\d+/.exec(name)?.[0]);

/** What was looked for in vain by a name with a number stands there under another number. */
export const likeStandsThere: ClueKind = {
  code: 'like-stands-there',
  about: 'Nothing had the name that the locator asks for; what has the same name with another number stood there.',
  find: (scene) => {
    const { failing, failure } = scene;
    const moment = momentOf(scene);
    const locator = failing?.data.locator ?? failure?.locator;
    const missed = failing?.data.error?.code === 'no such element' || failure?.kind === 'no-such-element';
    const named = locator && missed ? namedWithNumber(locator.value) : undefined;
    const page = named && pageAtFailure(scene);
    if (!moment || !named || !page) return [];
    const like = alike(named.value);
    const others = page.elements.filter(({ attrs }) => like.test(attrs[named.attribute] ?? ''));
    if (others.length === 0 || others.some(({ attrs }) => attrs[named.attribute] === named.value)) return [];
    const names = others.map(({ attrs }) => attrs[named.attribute]!);
    return [
      {
        ...moment,
        summary: `Nothing was called ${quote(shorten(locatorText({ using: 'css selector', value: named.value }), 32))}; ${names.slice(0, 2).map(quote).join(' and ')} stood there`,
        strength: isRowThatEnds(named, others) ? 0.45 : others.length > 3 ? 0.7 : 1,
        evidence: [...moment.evidence, page.event],
      },
    ];
  },
};

/** Counted from the first on, and what was asked for would have been the next: as well one row too few. */
function isRowThatEnds({ attribute, value }: Named, others: readonly MarkupElement[]): boolean {
  const numbers = others.map(({ attrs }) => numberOf(attrs[attribute]!)).sort((a, b) => a - b);
  const counted = numbers.every((number, i) => number === numbers[0]! + i) && numbers[0]! <= 1;
  return counted && numberOf(value) > numbers.at(-1)! && new Set(others.map(({ tag }) => tag)).size === 1;
}
