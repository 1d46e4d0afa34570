import { riskKinds, type Risk, type RiskKind } from './risk.ts';

/**
 * How often a test that has a risk of a kind, told as plainly as can be, is one that flakes by it. Counted on three sites
 * with labelled tests, from passing attempts only, each kind drawn towards 0.3 as if two tests more had been seen
 * (`benchmarks/outlook.ts`, which also tells each site by what the others show), and rounded. Secrets make nothing flake.
 */
export const chances: Record<RiskKind, number> = {
  'fixed-sleep': 0.45,
  unwaited: 0.3,
  'read-too-early': 0.3,
  'page-left-behind': 0.2,
  'left-under-way': 0.45,
  'thin-limit': 0.35,
  'held-across-redraw': 0.35,
  'place-measured-before': 0.7,
  'first-of-several': 0.3,
  'made-up-locator': 0.35,
  'step-sometimes': 0.2,
  'looked-once': 0.35,
  'window-by-order': 0.65,
  'list-may-be-empty': 0.35,
  'made-up-input': 0.65,
  'day-dependent': 0.3,
  'outside-answer': 0.3,
  'covered-at-times': 0.1,
  'left-by-others': 0.1,
  'secret-shown': 0,
};

/** A risk that was seen in some of the passing attempts of a test, as it showed the last time. */
export interface TestRisk extends Risk {
  /** How likely a test with this is one that flakes by it, 0…1. */
  chance: number;
  /** In how many of the passing attempts that were looked at. */
  seen: number;
  of: number;
  /** The attempt it is shown in. */
  attempt: string;
}

/** What is to be expected of a test, by its passing attempts. */
export interface Outlook {
  /** How likely the test is one that flakes, 0…1, all its risks together. */
  score: number;
  /** How many passing attempts were looked at. */
  attempts: number;
  /** The gravest first. */
  risks: TestRisk[];
}

/** So likely to flake a test is in the list; under it the list would be all tests. */
export const listedFrom = 0.15;

/** Some risks are only seen in the attempt in which they nearly came true: once is enough. */
const seenOnce = 0.6;

/**
 * What the passing attempts of one test make likely. Kinds of risk are taken as if each came by itself; of one kind the
 * gravest counts, since a test that is written in one way is written so at every step.
 * @param attempts the newest first, each with what was seen in it
 */
export function outlookOf(attempts: readonly { id: string; risks: readonly Risk[] }[]): Outlook {
  const found = new Map<string, { last: Risk; attempt: string; seen: number; strength: number }>();
  for (const { id, risks } of attempts) {
    // An attempt that shows one at two steps is still one attempt that shows it.
    const plainest = new Map<string, Risk>();
    for (const risk of risks) {
      const key = `${risk.kind} ${risk.key}`;
      if (risk.strength >= (plainest.get(key)?.strength ?? 0)) plainest.set(key, risk);
    }
    for (const [key, risk] of plainest) {
      const known = found.get(key) ?? { last: risk, attempt: id, seen: 0, strength: 0 };
      // What shows it most plainly is what to look at.
      if (risk.strength > known.last.strength) Object.assign(known, { last: risk, attempt: id });
      known.seen++;
      known.strength += risk.strength;
      found.set(key, known);
    }
  }
  const of = attempts.length;
  const risks = [...found.values()]
    .map(({ last, attempt, seen, strength }): TestRisk => {
      const share = seenOnce + (1 - seenOnce) * (seen / of);
      const chance = Math.round(chances[last.kind] * (strength / seen) * share * 1000) / 1000;
      return { ...last, chance, seen, of, attempt };
    })
    .sort((a, b) => b.chance - a.chance || riskKinds.indexOf(a.kind) - riskKinds.indexOf(b.kind));
  const gravest = new Map<RiskKind, number>();
  for (const { kind, chance } of risks) gravest.set(kind, Math.max(gravest.get(kind) ?? 0, chance));
  const score = 1 - [...gravest.values()].reduce((none, chance) => none * (1 - chance), 1);
  return { score: Math.round(score * 1000) / 1000, attempts: of, risks };
}
