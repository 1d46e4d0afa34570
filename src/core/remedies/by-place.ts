import { madeUp } from '../clues/generated-locator.ts';
import { treeAt } from '../evidence/documents.ts';
import { quote, said } from '../evidence/labels.ts';
import type { Tree, TreeElement } from '../evidence/markup.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep } from './case.ts';
import { cssOf, usedIn } from './scoped.ts';
import { commandOf, momentAt } from './told.ts';

const mostLevels = 6;
const plainName = /^[A-Za-z][\w-]*$/;

/**
 * Nothing here has the name that was asked for, as that is drawn or counted up; what passing attempts used stands here too,
 * at the same place in what has a lasting name. The last resort: a place is better than such a name, and worse than any other.
 */
export const byItsPlace: Adviser = (about) => {
  const { step, subject, markup } = about;
  const locator = step && commandOf(subject, step)?.data.locator;
  const css = locator && cssOf(locator);
  if (!step || !css) return [];
  const moment = momentAt(subject, step);
  const here = treeAt(subject.evidence, commandOf(subject, step)?.data.context, moment.at, markup);
  const right = sameStep(about, step, 'passing').flatMap((one) => usedIn(about, one, css) ?? []);
  const [first] = right;
  if (!first || !here || here.find(css.css).length > 0) return [];
  const place = placesOf(first.element, css.css).find((path) => {
    const used = right.every(({ tree, element }) => onlyOf(tree, path) === element);
    return used && onlyOf(here, path)?.text === first.element.text;
  });
  if (!place) return [];
  return [
    {
      kind: 'locator',
      text: `Look for the element of ${said(step.label)} by its place, ${quote(place)}, not by ${quote(css.css)}`,
      because: `What was used stood there ${inPassing([right.length, right.length])}; here the same stands there, and nothing has that name`,
      passing: [right.length, right.length],
      failing: [1, 1],
      shown: [shownStep(moment), ...sameStep(about, step, 'passing').slice(0, 1).map(shownStep)],
      change: { at: step.events, change: { do: 'locate by', locator: { by: 'css', value: place } } },
    },
  ];
};

const onlyOf = (tree: Tree, css: string): TreeElement | undefined => {
  const found = tree.find(css);
  return found.length === 1 ? found[0] : undefined;
};

/** Ways to an element from something around it that has a lasting name, the nearest first. */
function placesOf(element: TreeElement, asked: string): string[] {
  const out: string[] = [];
  const steps: string[] = [];
  let one = element;
  for (let level = 0; one.parent && level < mostLevels; level++) {
    const { parent, tag } = one;
    const alike = parent.children.filter((other) => other.tag === tag);
    steps.unshift(alike.length > 1 ? `${tag}:nth-of-type(${alike.indexOf(one) + 1})` : tag);
    one = parent;
    const id = one.attrs.id ?? '';
    const css = `#${id}`;
    if (plainName.test(id) && !asked.includes(css) && !madeUp({ using: 'css selector', value: css }))
      out.push([css, ...steps].join(' > '));
  }
  return out;
}
