import { madeUp } from '../clues/generated-locator.ts';
import type { DrillLocator } from '../drill/drill.ts';
import { inXPath } from '../drill/page-locators.ts';
import { treeAt } from '../evidence/documents.ts';
import type { Locator } from '../evidence/event.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { locatorText } from '../evidence/locator.ts';
import { inside, type Tree, type TreeElement } from '../evidence/markup.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep, type Case } from './case.ts';
import { sameText, stateOf } from './locators.ts';
import { commandOf, momentAt, type Moment } from './told.ts';

/** A kind of cards, rows or entries. */
interface Kind {
  tag: string;
  /** A class that all of them have. */
  kind: string | undefined;
}

/** One of them by something that it alone says. */
interface Item extends Kind {
  /** The part that says it, and what it says. */
  part: string;
  words: string;
}

interface Used {
  tree: Tree;
  element: TreeElement;
}

const mostLevels = 8;
const longestWords = 40;
/** Parts that name what a card is about, before all others. */
const naming = ['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'th', 'legend', 'caption', 'dt', 'a', 'strong', 'b'];

/**
 * What was used stands in a card, row or entry among others of its kind: find that one by its name, and the element in it.
 * Tried against the documents that the attempts wrote down.
 */
export const inItsOwn: Adviser = (about) => {
  const { step, subject } = about;
  const locator = step && commandOf(subject, step)?.data.locator;
  if (!step || !locator) return [];
  const css = cssOf(locator);
  // Of several that read alike only the first is known to be the one: what lies in another element may be any of them.
  if (!css && (locator.within || locator.index)) return [];
  const used = (moment: Moment): Used | undefined => (css ? usedIn(about, moment, css) : seemsUsedIn(about, moment));
  const right = sameStep(about, step, 'passing').flatMap((moment) => used(moment) ?? []);
  const [first] = right;
  const mine = used(momentAt(subject, step));
  if (!first || !mine) return [];
  const item = itemsAround(right, mine).find(
    (one) =>
      right.every(({ tree, element }) => {
        const found = theOnly(tree, one);
        return found !== undefined && isWithin(element, found);
      }) &&
      // Here it must be there too, and be another than the one that was used.
      ((found) => found !== undefined && !isWithin(mine.element, found))(theOnly(mine.tree, one)),
  );
  const inner = item && innerOf(right, item);
  if (!item || !inner) return [];
  const count: [number, number] = [right.length, right.length];
  const ofKind =
    item.kind === undefined ? '' : `[contains(concat(' ', normalize-space(@class), ' '), ' ${item.kind} ')]`;
  const outer = `//${item.tag}${ofKind}[.//${item.part}[normalize-space(.)=${quoted(item.words)}]]`;
  const found: DrillLocator = { ...inner, within: { locator: { by: 'xpath', value: outer } } };
  return [
    {
      kind: 'locator',
      text: `Look for the element of ${said(step.label)} inside the ${item.tag} that says ${quote(item.words)}, not by ${quote(shorten(locatorText(locator), 60))}`,
      because: `What was used stood in that one ${inPassing(count)}; here it was there as well, and another was used`,
      passing: count,
      failing: [1, 1],
      shown: [shownStep(momentAt(subject, step)), ...sameStep(about, step, 'passing').slice(0, 1).map(shownStep)],
      change: { at: step.events, change: { do: 'locate by', locator: found } },
    },
  ];
};

/** In single quotes where it can be: a drill's own are double. */
const quoted = (text: string): string => (text.includes("'") ? inXPath(text) : `'${text}'`);

/** A locator of CSS alone as one selector. */
export function cssOf(locator: Locator): { css: string; index: number } | undefined {
  if (locator.using !== 'css selector' || locator.value.includes(',')) return undefined;
  if (!locator.within) return { css: locator.value, index: locator.index ?? 0 };
  const outer = cssOf(locator.within);
  return outer && outer.index === 0 ? { css: `${outer.css} ${locator.value}`, index: locator.index ?? 0 } : undefined;
}

/** The element that a step used, in the document nearest to it; nothing where that holds another there. */
export function usedIn(
  { markup }: Case,
  { told, step, at }: Moment,
  { css, index }: { css: string; index: number },
): Used | undefined {
  const tree = treeAt(told.evidence, commandOf(told, step)?.data.context, at, markup);
  const element = tree?.find(css)[index];
  return tree && element ? { tree, element } : undefined;
}

/** What no selector tells: the first element that is and reads as the one that was used; such locators go by what is said. */
function seemsUsedIn({ markup }: Case, moment: Moment): Used | undefined {
  const { told, step, at } = moment;
  const state = stateOf(moment);
  if (!state?.tag || !state.text) return undefined;
  const tree = treeAt(told.evidence, commandOf(told, step)?.data.context, at, markup);
  const element = tree?.all.find(({ tag, text }) => tag === state.tag && sameText(text, state.text));
  return tree && element ? { tree, element } : undefined;
}

/** More names than these are tried against no documents. */
const mostItems = 400;

/**
 * What may be the card, each once. Of its kind there must be several somewhere: a document may have been written down before
 * the others were there.
 */
function itemsAround(right: readonly Used[], mine: Used): Item[] {
  const trees = [...right, mine].map(({ tree }) => tree);
  const several = new Map<string, boolean>();
  const areSeveral = (kind: Kind): boolean => {
    const name = `${kind.tag}.${kind.kind ?? ''}`;
    const known = several.get(name) ?? trees.some((tree) => hasSeveral(tree, kind));
    several.set(name, known);
    return known;
  };
  const out = new Map<string, Item>();
  for (const { element } of right)
    for (const item of itemsOf(element, areSeveral)) {
      if (out.size >= mostItems) return [...out.values()];
      out.set(JSON.stringify(item), item);
    }
  return [...out.values()];
}

/** The cards around an element, the nearest first, by each thing that they say besides the element itself. */
function itemsOf(element: TreeElement, areSeveral: (kind: Kind) => boolean): Item[] {
  const out: Item[] = [];
  let around = element.parent;
  for (let level = 0; around && level < mostLevels; level++, around = around.parent) {
    const like = (around.parent?.children ?? [around]).filter(({ tag }) => tag === around!.tag);
    const kind = (around.attrs.class ?? '')
      .split(/\s+/)
      .find(
        (one) =>
          /^[A-Za-z][\w-]*$/.test(one) &&
          !madeUp({ using: 'css selector', value: `.${one}` }) &&
          like.every(({ attrs }) => (attrs.class ?? '').split(/\s+/).includes(one)),
      );
    const { tag } = around;
    const kinds = (kind === undefined ? [undefined] : [undefined, kind])
      .map((one): Kind => ({ tag, kind: one }))
      .filter(areSeveral);
    if (kinds.length === 0) continue;
    const parts = inside(around).filter(
      (one) =>
        one.children.length === 0 &&
        one !== element &&
        !isWithin(one, element) &&
        one.text !== element.text &&
        one.text.length >= 2 &&
        one.text.length <= longestWords &&
        /\p{L}{2}/u.test(one.text),
    );
    const rank = ({ tag }: TreeElement): number => (naming.indexOf(tag) + naming.length + 1) % (naming.length + 1);
    for (const part of parts.sort((a, b) => rank(a) - rank(b)))
      for (const one of kinds) out.push({ ...one, part: part.tag, words: part.text });
  }
  return out;
}

function isWithin(element: TreeElement, around: TreeElement): boolean {
  for (let one: TreeElement | undefined = element; one; one = one.parent) if (one === around) return true;
  return false;
}

const isOf = ({ tag, kind }: Kind, one: TreeElement): boolean =>
  one.tag === tag && (kind === undefined || (one.attrs.class ?? '').split(/\s+/).includes(kind));

/** Whether a document has others of a card's kind beside one. */
function hasSeveral({ all }: Tree, kind: Kind): boolean {
  const parents = new Set<TreeElement | undefined>();
  for (const one of all) {
    if (!isOf(kind, one)) continue;
    if (parents.has(one.parent)) return true;
    parents.add(one.parent);
  }
  return false;
}

/** The one card of a document that says so. */
function theOnly({ all }: Tree, item: Item): TreeElement | undefined {
  const { part, words } = item;
  const found = all.filter(
    (one) =>
      isOf(item, one) &&
      one.text.includes(words) &&
      inside(one).some((inner) => inner.tag === part && inner.text === words),
  );
  return found.length === 1 ? found[0] : undefined;
}

/** The element inside its card: the first of its tag, or the one that reads so. */
function innerOf(right: readonly Used[], item: Item): DrillLocator | undefined {
  const { tag, text } = right[0]!.element;
  const first = (like: (one: TreeElement) => boolean): boolean =>
    right.every(({ tree, element }) => inside(theOnly(tree, item)!).find(like) === element);
  if (first((one) => one.tag === tag)) return { by: 'css', value: tag };
  if (text && first((one) => one.tag === tag && one.text === text))
    return { by: 'xpath', value: `.//${tag}[normalize-space(.)=${inXPath(text)}]` };
  return undefined;
}
