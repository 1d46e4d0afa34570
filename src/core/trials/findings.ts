import { wilson, type Rate } from '../stats/wilson.ts';
import { duration } from '../evidence/labels.ts';
import { isAlways, least, settled, surelyProvokes, type Plan } from './search.ts';
import { allWords, doseOf, kindsOfStressor, keyAtAnyDose, type Stressor, type StressorKind } from './stressor.ts';
import { Tallies, type Tried } from './tally.ts';

/** Something that brings the failure. */
export interface Finding {
  /** Can be posted again exactly as they are. */
  stressors: Stressor[];
  rate: Rate & { failed: number; done: number };
  /** Where it begins, between a dose that did not bring it and one that did; null where there is none, or it was not sought. */
  dose: { value: number; low: number; high: number; unit: string } | null;
  words: string;
  /** The same elsewhere does nothing; null where that was not asked. */
  specific: boolean | null;
}

/** What a search came to, the best first. */
export interface Found {
  findings: Finding[];
  /** What it rules out and what it leaves open, in words. */
  ruledOut: string[];
}

/** Other arms that are told besides the one that was followed. */
const mostOthers = 3;

export function findingsOf(plan: Plan, tried: readonly Tried[]): Found {
  const tallies = new Tallies(tried);
  const asItIs = tallies.under([]);
  const findings: Finding[] = [];
  const rate = (stressors: readonly Stressor[]): Finding['rate'] => {
    const { same, n } = tallies.under(stressors);
    return { failed: same, done: n, ...wilson(same, n) };
  };
  if (asItIs.n >= least && isAlways(asItIs))
    findings.push({ stressors: [], rate: rate([]), dose: null, words: 'It fails as it is.', specific: null });
  const main = settled(plan, tallies);
  // Before it is sure of the dose it has come to, what it found first stands for it.
  const stressors = main && (tallies.under(main.stressors).n >= least ? main.stressors : main.arm.stressors);
  if (main && stressors && (surelyProvokes(tallies.under(stressors), asItIs) || asItIs.n < least)) {
    const [only] = stressors;
    const unit = only && kindsOfStressor[only.kind].dose?.unit;
    const dose =
      main.dose && unit
        ? {
            value: Math.round(((main.dose.low + main.dose.high) / 2) * 100) / 100,
            low: main.dose.low,
            high: main.dose.high,
            unit,
          }
        : null;
    findings.push({
      stressors: [...stressors],
      rate: rate(stressors),
      dose,
      words: sentence(stressors, rate(stressors), dose, main.specific),
      specific: main.specific ?? null,
    });
  }
  const told = new Set(findings.map(({ stressors }) => keyAtAnyDose(stressors)));
  for (const { stressors } of plan.arms) {
    if (findings.length > mostOthers) break;
    if (told.has(keyAtAnyDose(stressors)) || !surelyProvokes(tallies.under(stressors), asItIs)) continue;
    told.add(keyAtAnyDose(stressors));
    const own = rate(stressors);
    findings.push({
      stressors: [...stressors],
      rate: own,
      dose: null,
      words: sentence(stressors, own, null),
      specific: null,
    });
  }
  return { findings, ruledOut: [...ruledOut(plan, tallies), ...undecided(plan, tallies, findings)] };
}

function sentence(
  stressors: readonly Stressor[],
  rate: Finding['rate'],
  dose: Finding['dose'],
  specific?: boolean,
): string {
  const begins = dose ? `; it begins at about ${doseWords(dose.value, dose.unit)}` : '';
  const where =
    specific === true ? '; the same elsewhere does nothing' : specific === false ? '; so it does elsewhere' : '';
  return `It fails ${rate.failed} of ${rate.done} times when ${allWords(stressors)}${begins}${where}.`;
}

export const doseWords = (dose: number, unit: string): string => (unit === 'ms' ? duration(dose) : `${dose} ${unit}`);

/** Chance of seeing none of so many if the rate were higher: one in twenty. */
const surely = 0.05;

/** What was tried without the failure, kind by kind, and how surely that says something. */
function ruledOut({ arms }: Plan, tallies: Tallies): string[] {
  const kinds = new Map<StressorKind, { ways: number; trials: number; fewest: number; most: number; unit?: string }>();
  for (const { stressors } of arms) {
    const [only] = stressors;
    const { n, same } = tallies.under(stressors);
    if (stressors.length !== 1 || !only || n === 0 || same > 0) continue;
    const one = kinds.get(only.kind) ?? { ways: 0, trials: 0, fewest: Infinity, most: 0 };
    const unit = kindsOfStressor[only.kind].dose?.unit;
    kinds.set(only.kind, {
      ways: one.ways + 1,
      trials: one.trials + n,
      fewest: Math.min(one.fewest, n),
      most: Math.max(one.most, doseOf(only) ?? 0),
      ...(unit ? { unit } : {}),
    });
  }
  return [...kinds].map(([kind, { ways, trials, fewest, most, unit }]) => {
    const limit = Math.ceil(100 * (1 - surely ** (1 / fewest)));
    const upTo = unit ? `, up to ${doseWords(most, unit)}` : '';
    return `What ${kindsOfStressor[kind].about}${upTo}: tried in ${ways} ${ways === 1 ? 'way' : 'ways'}, ${trials} ${trials === 1 ? 'trial' : 'trials'}, without the failure; each brings it in under ${limit} % of trials, 95 % sure.`;
  });
}

/** What came with the failure at times, but not so often that it is known to bring it. */
function undecided({ arms }: Plan, tallies: Tallies, findings: readonly Finding[]): string[] {
  const asItIs = tallies.under([]);
  const told = new Set(findings.map(({ stressors }) => keyAtAnyDose(stressors)));
  return arms.flatMap(({ stressors }) => {
    const { n, same } = tallies.under(stressors);
    if (same === 0 || told.has(keyAtAnyDose(stressors))) return [];
    told.add(keyAtAnyDose(stressors));
    return `When ${allWords(stressors)}: the failure came in ${same} of ${n} trials, and in ${asItIs.same} of ${asItIs.n} as it is; that does not tell the two apart.`;
  });
}
