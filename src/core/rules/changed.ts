import { quote, shorten } from '../evidence/labels.ts';
import type { Keeping, KeepingTerm } from '../keeping/keeping.ts';
import type { Thresholds } from '../clues/thresholds.ts';
import type { Limits } from './limits.ts';
import { riskNames } from '../risks/words.ts';
import { requestEnds, type Exemption, type StandingRules } from './standing-rules.ts';

/** What turns one form of the rules into another, in sentences; none when they are the same. */
export function whatChanged(before: StandingRules, after: StandingRules): string[] {
  return [
    ...policyChanged('console', before.console, after.console),
    ...choiceChanged('console levels', before.console.levels, after.console.levels),
    ...switched('uncaught exceptions', before.console.uncaught, after.console.uncaught),
    ...switched('swallowed exceptions', before.console.swallowed, after.console.swallowed),
    ...(before.console.from === after.console.from
      ? []
      : [after.console.from === 'own' ? 'only lines of own scripts count' : 'lines of all scripts count']),
    ...policyChanged('requests', before.requests, after.requests),
    ...choiceChanged(
      'ends of requests',
      requestEnds.filter((end) => before.requests.ends.includes(end)),
      requestEnds.filter((end) => after.requests.ends.includes(end)),
    ),
    ...policyChanged('risks', before.risks, after.risks),
    ...choiceChanged(
      'risks',
      before.risks.kinds.map((kind) => riskNames[kind]),
      after.risks.kinds.map((kind) => riskNames[kind]),
    ),
    ...keepingChanged(before.keeping, after.keeping),
    ...listChanged('mask', before.masks, after.masks),
    ...listChanged('own host', before.hosts.own, after.hosts.own),
    ...listChanged('outside host', before.hosts.outside, after.hosts.outside),
    ...numbersChanged(thresholdNames, before.thresholds, after.thresholds),
    ...numbersChanged(limitNames, before.limits, after.limits),
    ...listChanged('own code', before.frames.own, after.frames.own),
    ...listChanged('library code', before.frames.library, after.frames.library),
  ];
}

export const thresholdNames: Record<keyof Thresholds, string> = {
  movedPx: 'pixels that a target has moved',
  slowCommandMs: 'ms that a plain command takes on a slow machine',
  stretchedBy: 'times as long as in passing attempts, of everything',
  nearLimit: 'share of its limit that a wait uses',
};
export const limitNames: Record<keyof Limits, string> = {
  events: 'events of an attempt',
  picturesMb: 'MB of pictures of an attempt',
};

const numbersChanged = <T extends object>(names: Record<keyof T, string>, before: T, after: T): string[] =>
  (Object.keys(names) as (keyof T)[]).flatMap((key) =>
    before[key] === after[key] ? [] : [`${names[key]}: ${String(before[key])} → ${String(after[key])}`],
  );

function policyChanged(
  name: string,
  before: { effect: string; only: string[]; exempt: Exemption[] },
  after: { effect: string; only: string[]; exempt: Exemption[] },
): string[] {
  return [
    ...(before.effect === after.effect
      ? []
      : [`${name}: ${effectWords[before.effect]} → ${effectWords[after.effect]}`]),
    ...listChanged(`${name}: address`, before.only, after.only),
    ...exemptChanged(name, before.exempt, after.exempt),
  ];
}

const effectWords: Record<string, string> = { off: 'off', tells: 'tells', fails: 'fails attempts' };

function exemptChanged(name: string, before: readonly Exemption[], after: readonly Exemption[]): string[] {
  const known = new Map(before.map((one) => [one.pattern, one]));
  const said = after.flatMap((one) => {
    const old = known.get(one.pattern);
    known.delete(one.pattern);
    if (!old) return [`${name}: lets ${quote(shorten(one.pattern, 60))} pass`];
    return old.reason === one.reason && old.owner === one.owner && old.until === one.until
      ? []
      : [`${name}: exemption of ${quote(shorten(one.pattern, 60))} changed`];
  });
  return [
    ...said,
    ...[...known.keys()].map((pattern) => `${name}: no longer lets ${quote(shorten(pattern, 60))} pass`),
  ];
}

const daysWords = (days: number | null): string => (days === null ? 'for ever' : `${days} days`);
const termWords = ({ run, branch, failing, passing }: KeepingTerm): string =>
  `${[run && `runs ${quote(run)}`, branch && `branch ${quote(branch)}`].filter(Boolean).join(', ') || 'all runs'}: failing ${daysWords(failing.rest)}, pictures ${daysWords(failing.pictures)}; passing ${daysWords(passing.rest)}, pictures ${daysWords(passing.pictures)}${passing.oneIn > 1 ? ` of one in ${passing.oneIn}` : ''}`;

function keepingChanged(before: Keeping, after: Keeping): string[] {
  const [was, is] = [before.terms.map(termWords), after.terms.map(termWords)];
  return [
    ...(was.join('\n') === is.join('\n') ? [] : [`keeping: ${is.join('; ') || 'everything'}`]),
    ...(before.budgetGb === after.budgetGb
      ? []
      : [after.budgetGb === null ? 'no budget for the data folder' : `the data folder may take ${after.budgetGb} GB`]),
  ];
}

const switched = (name: string, before: boolean, after: boolean): string[] =>
  before === after ? [] : [`${name} ${after ? 'count' : 'no longer count'}`];

const choiceChanged = (name: string, before: readonly string[], after: readonly string[]): string[] =>
  before.join() === after.join() ? [] : [`${name}: ${after.join(', ') || 'none'}`];

function listChanged(name: string, before: readonly string[], after: readonly string[]): string[] {
  const parts = (list: readonly string[]): string => list.map((one) => quote(shorten(one, 60))).join(', ');
  const [added, removed] = [after.filter((one) => !before.includes(one)), before.filter((one) => !after.includes(one))];
  return [
    ...(added.length ? [`${name} ${parts(added)} added`] : []),
    ...(removed.length ? [`${name} ${parts(removed)} removed`] : []),
  ];
}
