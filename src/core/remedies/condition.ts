import { plainPath, requestKey } from '../contrast/sketch.ts';
import * as ask from './asked.ts';
import { arrivedAt, endOf, type ElementState } from '../evidence/event.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { nameAt, segmentAt, type Lifeline, type LifelineSegment } from '../evidence/lifelines.ts';
import { linePattern } from '../evidence/usual.ts';
import type { Evidence } from '../evidence/prepare.ts';
import type { Told } from './told.ts';

export type ConditionKind =
  | 'enabled'
  | 'attribute'
  | 'text'
  | 'count'
  | 'visible'
  | 'present'
  | 'gone'
  | 'uncovered'
  | 'still'
  | 'answered'
  | 'page'
  | 'loaded'
  | 'title'
  | 'said';

/** Since when something is so, and the event that made it so. */
export interface Held {
  since: number;
  event?: string;
}

/** Something a test could wait for, in words and as a question that any moment of any attempt can be asked. */
export interface Condition {
  kind: ConditionKind;
  /** Equal keys ask the same. */
  key: string;
  /** Said after “wait until”. */
  words: string;
  /** `locatorKey` of what it looks at. */
  locator?: string;
  /** The same as a drill asks it, of what the locator stands for; nothing where a drill cannot. */
  asks?: ask.Asked;
  /** `false` when it is not so, undefined when it cannot be known. */
  holds(evidence: Evidence, at: number): Held | false | undefined;
}

/** Names that frameworks make up as they like; a condition on them would not hold. */
const restless = /^(?:style|class|value|data-v-|_ng|ng-|data-react|jsaction|aria-activedescendant)/;
/** An element that has not moved for this long stands, ms. */
export const stillMs = 250;
const longestText = 60;
/** A request made so often in one attempt is one that repeats by itself. */
const polled = 4;

/** Everything that could be waited for that is so at a moment of one attempt. */
export function conditionsAt({ evidence }: Told, at: number): Condition[] {
  const out: Condition[] = [];
  for (const line of evidence.lifelines.values()) {
    const state = segmentAt(line, at)?.state;
    if (state) out.push(...ofElement(line, nameAt(line, at) ?? line.label, state));
  }
  // What others answer is no business of a test's.
  // So is what a page asks for again and again.
  const asked = new Map<string, number>();
  for (const one of evidence.network)
    if (one.data.own) asked.set(requestKey(one), (asked.get(requestKey(one)) ?? 0) + 1);
  const requests = new Set(evidence.network.filter((one) => one.data.own && arrivedAt(one) <= at).map(requestKey));
  for (const key of requests) if (asked.get(key)! < polled) out.push(answered(key));
  const here = evidence.page.findLast((event) => event.kind === 'navigation-committed' && event.at <= at);
  if (here?.data.address) out.push(onPage(plainPath(here.data.address)), loaded(plainPath(here.data.address)));
  const title = evidence.page.findLast((event) => event.kind === 'title' && event.at <= at)?.data.title;
  if (title) out.push(titled(title));
  for (const line of evidence.console) {
    if (line.at > at) break;
    // Faults and warnings are nothing to count on.
    if (line.data.level !== 'error' && line.data.level !== 'warning') out.push(said(linePattern(line), line.data.text));
  }
  return out.filter((one, i) => out.findIndex(({ key }) => key === one.key) === i);
}

/** That something is no longer what it is at a moment: what passing attempts, which may vary, had left behind. */
export function conditionsOff({ evidence }: Told, at: number): Condition[] {
  const out: Condition[] = [];
  for (const line of evidence.lifelines.values()) {
    const state = segmentAt(line, at)?.state;
    if (!state || state.node === null) continue;
    const name = quote(nameAt(line, at) ?? line.label);
    const { text } = state;
    if (text !== undefined && text.length <= longestText)
      out.push(
        element(
          'text',
          line,
          `text≠${text}`,
          `${name} reads something else than ${quote(text)}`,
          ask.value('text', 'does not read', text),
          (one) => (one.node === null ? false : one.text === undefined ? undefined : one.text !== text),
        ),
      );
    for (const [attr, value] of Object.entries(state.attrs ?? {}))
      if (!restless.test(attr) && value.length <= longestText)
        out.push(
          element(
            'attribute',
            line,
            `${attr}≠${value}`,
            `${name} no longer has ${attr}${value === '' ? '' : `="${value}"`}`,
            ask.attribute(attr, 'is not', value),
            (one) => (one.node === null ? false : one.attrs ? one.attrs[attr] !== value : undefined),
          ),
        );
  }
  return out;
}

function ofElement(line: Lifeline, called: string, state: ElementState): Condition[] {
  const name = quote(called || line.locator);
  if (state.node === null)
    return [element('gone', line, 'gone', `${name} is gone`, ask.simply('gone'), (one) => one.node === null)];
  const out = [
    element('present', line, 'present', `${name} is there`, ask.simply('there'), (one) => one.node !== null),
  ];
  const there = (test: (one: ElementState) => boolean | undefined) => (one: ElementState) =>
    one.node === null ? false : test(one);
  if (state.visible !== undefined)
    out.push(
      element(
        'visible',
        line,
        `visible=${state.visible}`,
        `${name} is ${state.visible ? 'visible' : 'hidden'}`,
        state.visible ? ask.value('displayed', 'is', 'true') : ask.hidden,
        (one) =>
          one.node === null ? !state.visible : one.visible === undefined ? undefined : one.visible === state.visible,
      ),
    );
  if (state.enabled && canBeDisabled(state))
    out.push(
      element(
        'enabled',
        line,
        'enabled',
        `${name} is enabled`,
        ask.value('enabled', 'is', 'true'),
        there((one) => one.enabled),
      ),
    );
  if (state.coveredBy === null)
    out.push(
      element(
        'uncovered',
        line,
        'uncovered',
        `nothing lies over ${name}`,
        ask.uncovered,
        there((one) => (one.coveredBy === undefined ? undefined : one.coveredBy === null)),
      ),
    );
  // What fills the page stands still whatever happens on it.
  if (state.coveredBy === null && state.tag !== 'html' && state.tag !== 'body') out.push(still(line, name));
  if (state.text && state.text.length <= longestText)
    out.push(
      element(
        'text',
        line,
        `text=${state.text}`,
        // What it is called is what it reads: then its locator says which it is.
        `${state.text === called ? quote(line.locator.replace(/^css=/, '')) : name} reads ${quote(state.text)}`,
        ask.value('text', 'reads', state.text),
        there((one) => (one.text === undefined ? undefined : one.text === state.text)),
      ),
    );
  if (state.count > 1)
    out.push(
      element(
        'count',
        line,
        `count=${state.count}`,
        `${quote(line.label || line.locator)} matches ${state.count}`,
        ask.value('count', 'is', String(state.count)),
        (one) => one.count === state.count,
      ),
      element(
        'count',
        line,
        'count>0',
        `${quote(line.label || line.locator)} matches at least one`,
        ask.value('count', 'is at least', '1'),
        (one) => one.count > 0,
      ),
    );
  for (const [attr, value] of Object.entries(state.attrs ?? {}))
    if (!restless.test(attr) && value.length <= longestText)
      out.push(
        element(
          'attribute',
          line,
          `${attr}=${value}`,
          `${name} has ${attr}${value === '' ? '' : `="${value}"`}`,
          ask.attribute(attr, 'is', value),
          there((one) => (one.attrs ? one.attrs[attr] === value : undefined)),
        ),
      );
  return out;
}

/** Everything else is enabled whatever happens. */
const controls: ReadonlySet<string> = new Set(['button', 'input', 'select', 'textarea', 'option', 'fieldset']);
const canBeDisabled = ({ tag, attrs }: ElementState): boolean =>
  tag === undefined || controls.has(tag) || attrs?.['aria-disabled'] !== undefined;

/** A condition on what a locator's first match is like. */
function element(
  kind: ConditionKind,
  { locator }: Lifeline,
  key: string,
  words: string,
  asks: ask.Asked,
  test: (state: ElementState) => boolean | undefined,
): Condition {
  return {
    kind,
    key: `${locator} ${key}`,
    words,
    locator,
    asks,
    holds: ({ lifelines }, at) => {
      const segments = lifelines.get(locator)?.segments ?? [];
      let i = segments.findLastIndex((one) => one.from <= at);
      const now = i < 0 ? undefined : test(segments[i]!.state);
      if (now !== true) return now;
      while (i > 0 && test(segments[i - 1]!.state) === true) i--;
      return { since: segments[i]!.from, event: segments[i]!.event };
    },
  };
}

function still({ locator }: Lifeline, name: string): Condition {
  return {
    kind: 'still',
    key: `${locator} still`,
    words: `${name} has stood still for ${stillMs} ms`,
    locator,
    asks: ask.simply('still'),
    holds: ({ lifelines }, at) => {
      const segments = lifelines.get(locator)?.segments ?? [];
      const now = segments.findLast((one) => one.from <= at);
      if (!now) return undefined;
      if (now.state.node === null) return false;
      const moved: LifelineSegment | undefined = segments.findLast(
        (one) => one.from <= at && (one.kind === 'moved' || one.kind === 'appeared' || one.kind === 'replaced'),
      );
      const since = (moved?.from ?? now.from) + stillMs;
      return since > at ? false : { since, event: moved?.event ?? now.event };
    },
  };
}

/** All requests of one kind made so far have been answered, and there was one. */
const answered = (key: string): Condition => ({
  kind: 'answered',
  key: `answered ${key}`,
  words: `${key} has answered`,
  asks: ask.answered(key),
  holds: ({ network }, at) => {
    const made = network.filter((one) => one.at <= at && requestKey(one) === key);
    if (made.length === 0 || made.some((one) => arrivedAt(one) > at)) return false;
    const last = made.reduce((a, b) => (endOf(b) > endOf(a) ? b : a));
    return { since: endOf(last), event: last.id };
  },
});

const onPage = (path: string): Condition => ({
  kind: 'page',
  key: `page ${path}`,
  words: `the address is ${path}`,
  asks: () => ask.onPage(path),
  holds: ({ page }, at) => {
    const now = page.findLast((one) => one.kind === 'navigation-committed' && one.at <= at);
    if (!now?.data.address) return undefined;
    return plainPath(now.data.address) === path ? { since: now.at, event: now.id } : false;
  },
});

const loaded = (path: string): Condition => ({
  kind: 'loaded',
  key: `loaded ${path}`,
  words: `${path} has loaded`,
  asks: ask.loaded(path),
  holds: ({ page }, at) => {
    const now = page.findLast((one) => one.kind === 'navigation-committed' && one.at <= at);
    if (!now?.data.address) return undefined;
    if (plainPath(now.data.address) !== path) return false;
    const done = page.find((one) => one.kind === 'loaded' && one.at >= now.at && one.at <= at);
    return done ? { since: done.at, event: done.id } : false;
  },
});

const titled = (title: string): Condition => ({
  kind: 'title',
  key: `title ${title}`,
  words: `the title is ${quote(shorten(title))}`,
  asks: () => ({ kind: 'value', subject: { what: 'title' }, comparison: 'is', value: title }),
  holds: ({ page }, at) => {
    const now = page.findLast((one) => one.kind === 'title' && one.at <= at);
    if (!now) return undefined;
    return now.data.title === title ? { since: now.at, event: now.id } : false;
  },
});

const said = (pattern: string, text: string): Condition => ({
  kind: 'said',
  key: `said ${pattern}`,
  words: `the console has said ${quote(shorten(text))}`,
  asks: ask.said(text),
  holds: (evidence, at) => {
    const line = evidence.console.find((one) => one.at <= at && linePattern(one) === pattern);
    return line ? { since: line.at, event: line.id } : false;
  },
});
