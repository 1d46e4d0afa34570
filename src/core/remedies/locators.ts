import { madeUp } from '../clues/generated-locator.ts';
import type { DrillLocator } from '../drill/drill.ts';
import { inXPath } from '../drill/page-locators.ts';
import type { ElementState } from '../evidence/event.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { segmentAt } from '../evidence/lifelines.ts';
import { locatorText } from '../evidence/locator.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep, type Case } from './case.ts';
import { writtenAt } from '../evidence/documents.ts';
import { clean, type MarkupElement } from '../evidence/markup.ts';
import { commandOf, momentAt, type Moment } from './told.ts';

/** A way to name an element, as a question to a document. */
interface Candidate {
  words: string;
  /** How lasting such names are: what is made for tests and people before what is made for looks. */
  worth: number;
  /** The same as a drill writes it. */
  locator: DrillLocator;
  matches(element: Pick<MarkupElement, 'tag' | 'text' | 'attrs'>): boolean;
}

const longestName = 60;
const roles: Record<string, string> = { a: 'link', button: 'button', h1: 'heading', h2: 'heading', h3: 'heading' };

/**
 * Locators that match one and the same element in every attempt: made from what the element of the passing
 * attempts is, tried against the documents that all of them wrote down, this one included. Where none was written of
 * the page, one is named that tells what was used here from what passing attempts used.
 */
export const lastingLocator: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const right = sameStep(about, step, 'passing').flatMap((moment) => {
    const state = stateOf(moment);
    return state ? [{ moment, state }] : [];
  });
  if (right.length === 0) return [];
  const mine = momentAt(subject, step);
  const docs = right.flatMap(({ moment, state }) => {
    const elements = documentAt(about, moment, state);
    return elements ? [{ elements, state }] : [];
  });
  const used = stateOf(mine);
  const own = documentAt(about, mine, used);
  const locator = commandOf(subject, step)?.data.locator;
  const before = locator ? locatorText(locator) : step.locator;
  // What is read may not be found by what it should read: then the check behind it could say nothing else.
  const byText = ![subject, ...about.passing].some(({ sketch }) =>
    sketch.steps.some((one) => one.action === 'read' && one.locator === step.locator),
  );
  const candidates = candidatesOf(
    right.map(({ state }) => state),
    byText,
  ).filter((one) => one.words !== before);
  const found = docs.length
    ? candidates
        .filter((one) => docs.every(({ elements, state }) => onlyMatch(one, elements, state)))
        .filter((one) => !own || own.filter((element) => one.matches(element)).length === 1)
    : candidates.filter((one) => used?.tag !== undefined && !one.matches(asElement(used)));
  const best = found.sort((a, b) => b.worth - a.worth)[0];
  if (!best) return [];
  const count: [number, number] = docs.length ? [docs.length, docs.length] : [right.length, right.length];
  return [
    {
      kind: 'locator',
      text: `Locate the element of ${said(step.label)} by ${best.words}${before ? `, not by ${quote(shorten(before, 60))}` : ''}`,
      because: docs.length
        ? `It matches one element, the one that was used, ${inPassing(count)}${own ? ', and one here' : '; what this page held was not written down'}`
        : `So was what was used ${inPassing(count)}, and not what was used here; whether it matches nothing else was not written down`,
      passing: count,
      failing: docs.length && own ? [1, 1] : null,
      shown: [shownStep(mine), shownStep(right[0]!.moment)],
      change: { at: step.events, change: { do: 'locate by', locator: best.locator } },
    },
  ];
};

/** An element as a document would have it, from what its lifeline tells. */
const asElement = ({
  tag = '',
  text = '',
  attrs = {},
}: ElementState): Pick<MarkupElement, 'tag' | 'text' | 'attrs'> => ({
  tag,
  text,
  attrs,
});

/** What the used element was. */
export function stateOf({ told: { evidence }, step, at }: Moment): ElementState | undefined {
  const line = step.locator === undefined ? undefined : evidence.lifelines.get(step.locator);
  const state = line && (segmentAt(line, at) ?? line.segments.find((one) => one.state.node !== null))?.state;
  return state?.node === null ? undefined : state;
}

/**
 * The document nearest to a moment, on the page that the step spoke to. A page that draws another over itself may have
 * been written down before or after: then what was used is not on it.
 */
function documentAt(
  { markup }: Case,
  { told, step, at }: Moment,
  used: ElementState | undefined,
): readonly MarkupElement[] | undefined {
  const elements = writtenAt(told.evidence, commandOf(told, step)?.data.context, at, markup)?.elements;
  const there = used === undefined || elements?.some(({ tag, text }) => tag === used.tag && sameText(text, used.text));
  return there ? elements : undefined;
}

function onlyMatch(candidate: Candidate, elements: readonly MarkupElement[], state: ElementState): boolean {
  const found = elements.filter((element) => candidate.matches(element));
  return found.length === 1 && found[0]!.tag === state.tag && sameText(found[0]!.text, state.text);
}

/** What was seen of a text may have been cut. */
export const sameText = (whole: string, seen: string | undefined): boolean =>
  seen === undefined || clean(whole) === clean(seen) || clean(whole).startsWith(clean(seen).replace(/…$/, ''));

/** Names that hold for the element in every attempt it was right in. */
function candidatesOf(states: readonly ElementState[], byText: boolean): Candidate[] {
  const [first] = states;
  if (!first?.tag) return [];
  const constant = <T>(of: (state: ElementState) => T | undefined): T | undefined => {
    const value = of(first);
    return states.every((one) => of(one) === value) ? value : undefined;
  };
  const tag = constant((one) => one.tag);
  if (!tag) return [];
  const out: Candidate[] = [];
  const byAttribute = (attr: string, worth: number): void => {
    const value = constant((one) => one.attrs?.[attr]);
    if (!value || value.length > longestName) return;
    const css = attr === 'id' ? `#${value}` : `[${attr}="${value}"]`;
    if (madeUp({ using: 'css selector', value: css })) return;
    out.push({
      words: css,
      worth,
      locator: { by: 'css', value: css },
      matches: (element) => element.attrs[attr] === value,
    });
  };
  for (const attr of Object.keys(first.attrs ?? {}))
    if (/^data-(?!v-|render|react)/.test(attr) && !/state|ready|busy|count|index/.test(attr)) byAttribute(attr, 6);
  byAttribute('id', 5.5);
  byAttribute('name', 5);
  byAttribute('aria-label', 4.8);
  byAttribute('href', 3.5);
  byAttribute('placeholder', 3);
  const text = constant((one) => one.text);
  if (byText && text && text.length <= longestName && !text.endsWith('…')) {
    const role = constant((one) => one.attrs?.role) ?? roles[tag];
    const written = text;
    out.push({
      words: `its text: the ${role ?? tag} that reads ${quote(written)}`,
      worth: role ? 4.5 : 2.5,
      locator: role
        ? { by: 'role', value: role, named: written }
        : { by: 'xpath', value: `//${tag}[normalize-space(.)=${inXPath(written)}]` },
      matches: (element) => element.tag === tag && element.text === written,
    });
  }
  return out;
}
