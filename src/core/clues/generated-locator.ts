import type { Locator } from '../evidence/event.ts';
import { locatorText } from '../evidence/locator.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { clean } from '../evidence/markup.ts';
import type { ClueKind } from './clue.ts';
import { pageAtFailure } from './page-messages.ts';
import { failingStep, momentOf, sameInPassing, type Scene } from './scene.ts';

/** Looks like a program made it up: a hash, a long number, a style tool's class. */
const made = [
  { shape: /\b(?:css|sc|jss|emotion|styles?)-[a-z0-9]{5,}\b/i, what: 'a class that a style tool makes up' },
  { shape: /[-_](?=[0-9a-z]*\d)(?=[0-9a-z]*[a-z])[0-9a-f]{5,}\b/i, what: 'a hash' },
  {
    shape: /(?:^|[-_#.="'])(?=[a-z0-9]*\d[a-z]*\d)(?=[a-z0-9]*[a-z])[a-z0-9]{7,}(?:$|["'\]])/i,
    what: 'a made-up name',
  },
  { shape: /[-_#]\d{4,}\b/, what: 'a running number' },
  { shape: /:r[0-9a-z]+:/i, what: 'an id that a framework counts' },
  { shape: /^\/(?:html\/)?body(?:\/[a-z0-9]+(?:\[\d+\])?){3,}/i, what: 'a way counted from the top of the page' },
  { shape: /(?:^|\/)(?:[a-z]+\[\d+\]\/){2,}/i, what: 'a way counted through the page' },
  { shape: /:nth-(?:child|of-type)\(\d+\).*:nth-(?:child|of-type)\(\d+\)/i, what: 'a way counted through the page' },
];

/** A name with a small number at its end: a program may have counted it, or a person. */
export const countedName =
  /[-_]\d{1,3}(?:$|["'\]\s.:>)])|[#"'=_-][a-z]{1,3}\d{1,3}[-_][a-z]|:nth-(?:child|of-type)\(\d{1,4}\)|\[\d{1,4}\]/i;

/** What makes a locator look as if it would not hold; undefined when nothing does. */
export function madeUp(locator: Locator): string | undefined {
  if (locator.using === 'link text' || locator.using === 'partial link text') return undefined;
  return made.find(({ shape }) => shape.test(locator.value))?.what;
}

/** The attempt failed at a locator that depends on something a program makes up or a person moves. */
export const generatedLocator: ClueKind = {
  code: 'generated-locator',
  about: 'The locator it failed at is built on a generated value or on positions.',
  find: (scene) => {
    const { failing, failure } = scene;
    const locator = failing?.data.locator ?? failure?.locator;
    const missed = failing?.data.error?.code === 'no such element' || failure?.kind === 'no-such-element';
    const sure = locator && madeUp(locator);
    // A count says little by itself; it says more where the same place is there in attempts that pass.
    const counted =
      locator &&
      !sure &&
      !locator.using.includes('link text') &&
      countedName.test(locator.value) &&
      thereInPassing(scene)
        ? 'counted'
        : undefined;
    const what = sure ?? counted;
    const moment = momentOf(scene);
    const beside = locator && !missed && lastCounted.test(locator.value) ? standsBeside(scene) : undefined;
    if (moment && beside)
      return [
        {
          ...moment,
          summary: `${quote(shorten(locatorText(locator!), 44))} is counted; ${quote(shorten(failure!.expected!, 24))} stood in the cell ${beside.where}`,
          strength: 1,
          evidence: [...moment.evidence, beside.event],
        },
      ];
    if (!moment || !what) return [];
    return [
      {
        at: moment.at,
        summary: `${quote(shorten(locatorText(locator!), 44))} is ${what}${missed ? ', and matched nothing' : ''}`,
        strength: (missed ? 1 : 0.85) * (sure ? 1 : 0.75),
        evidence: moment.evidence,
      },
    ];
  },
};

/** The last part of a locator is a place in a row: `td[4]`, `td:nth-child(4)`. */
const lastCounted = /(?:\[\d{1,4}\]|:nth-(?:child|of-type)\(\d{1,4}\))\s*$/;
const cells = new Set(['td', 'th']);

/** What was expected stands in the next cell of the row that was read: a column more or less came before it. */
function standsBeside(scene: Scene): { where: string; event: string } | undefined {
  const { expected, actual } = scene.failure ?? {};
  if (!expected?.trim() || actual === undefined) return undefined;
  const page = pageAtFailure(scene);
  const row = page?.elements.filter(({ tag }) => cells.has(tag)) ?? [];
  const right = clean(expected);
  for (const [i, { text }] of row.entries()) {
    if (text !== clean(actual)) continue;
    if (row[i + 1]?.text === right) return { where: 'after it', event: page!.event };
    if (row[i - 1]?.text === right) return { where: 'before it', event: page!.event };
  }
  return undefined;
}

/** The same step found its target in attempts that passed, on the same page. */
function thereInPassing(scene: Scene): boolean {
  const step = failingStep(scene);
  const same = step ? sameInPassing(scene, step) : [];
  return same.length > 0 && same.every((one) => !one.error && one.page === step!.page);
}
