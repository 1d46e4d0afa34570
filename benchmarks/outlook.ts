// What will flake next, told from passing attempts only, at sites that others wrote and in the yard: of the tests that do flake how many
// are in the list, how many of its first ten do, and whether what is named is what makes them flake.
// Run: npm run bench:outlook -- [--sites FOLDER [--into .iskel/sites] [--seed 1000] [--attempts 6] [--earlier 0]] [--yard .iskel/yard] [--list]
import { parseArgs } from 'node:util';
import type { CauseCode } from '../src/core/causes/cause.ts';
import { chances, listedFrom, outlookOf, type Outlook } from '../src/core/risks/outlook.ts';
import { riskKinds, type RiskKind } from '../src/core/risks/risk.ts';
import { wilson } from '../src/core/stats/wilson.ts';
import { recordedYard } from './grounds/yard-recorded.ts';
import { judged } from './sites/judged.ts';
import { recordedSites, type RecordedSite } from './sites/recorded.ts';

const { values } = parseArgs({
  options: {
    sites: { type: 'string' },
    yard: { type: 'string' },
    into: { type: 'string', default: '.iskel/sites' },
    only: { type: 'string' },
    seed: { type: 'string', default: '1000' },
    attempts: { type: 'string', default: '6' },
    earlier: { type: 'string', default: '0' },
    list: { type: 'boolean', default: false },
  },
});
if (!values.sites && !values.yard) throw new Error('say where to look: --sites FOLDER, --yard FOLDER, or both');

/** Which causes a kind of risk becomes when it comes true. */
const becomes: Record<RiskKind, readonly CauseCode[]> = {
  'fixed-sleep': [
    'early-check',
    'early-action',
    'navigation-race',
    'missing-step',
    'slow-response',
    'lost-input',
    'replaced-element',
  ],
  unwaited: [
    'early-check',
    'early-action',
    'navigation-race',
    'missing-step',
    'lost-input',
    'replaced-element',
    'slow-response',
  ],
  'read-too-early': ['early-check', 'slow-response'],
  'page-left-behind': ['navigation-race', 'early-action', 'replaced-element'],
  'left-under-way': ['navigation-race'],
  'thin-limit': ['slow-response', 'starved-machine'],
  'held-across-redraw': ['replaced-element'],
  'place-measured-before': ['moving-target', 'covered-target'],
  'first-of-several': ['loose-locator'],
  'made-up-locator': ['brittle-locator'],
  'step-sometimes': ['missing-step', 'unexpected-dialog', 'layout-variant'],
  'looked-once': ['missing-step', 'empty-check', 'early-check', 'covered-target'],
  'window-by-order': ['wrong-window'],
  'list-may-be-empty': ['empty-check'],
  'made-up-input': ['random-data'],
  'day-dependent': ['clock-dependent'],
  'outside-answer': ['third-party-outage'],
  'covered-at-times': ['covered-target'],
  'left-by-others': ['shared-state'],
  'secret-shown': [],
};
/** Nothing that the test does or fails to do: passing attempts cannot tell of these, and being listed for them is chance. */
const notTheTests: ReadonlySet<CauseCode> = new Set<CauseCode>([
  'service-error',
  'script-error',
  'wrong-result',
  'wrong-expectation',
  'starved-machine',
  'layout-variant',
  'engine-difference',
]);

interface Told {
  site: string;
  id: string;
  cause: CauseCode;
  flakes: boolean;
  outlook: Outlook;
}

async function toldAt(site: RecordedSite): Promise<Told[]> {
  const all = await judged(site);
  const ids = [...new Set(all.map(({ label }) => label.caseId))];
  return ids.flatMap((id): Told[] => {
    const own = all.filter(({ label }) => label.caseId === id);
    const passing = own.filter(({ label }) => label.honest && label.outcome === 'passed');
    if (passing.length === 0) return [];
    const outlook = outlookOf(passing.map(({ label, analysis }) => ({ id: label.id, risks: analysis.risks })));
    const flakes = own.some(({ label }) => label.hurt);
    return [{ site: site.name, id, cause: own[0]!.label.cause, flakes, outlook }];
  });
}

const share = (hits: number, of: number): string => {
  const { low, high } = wilson(hits, of);
  const percent = (rate: number): string => (100 * rate).toFixed(0);
  return of ? `${hits} of ${of} (${percent(hits / of)} %, ${percent(low)} to ${percent(high)})` : '–';
};
const named = ({ outlook, cause }: Told, most = Infinity): boolean =>
  outlook.risks.slice(0, most).some(({ kind, chance }) => chance > 0.04 && becomes[kind].includes(cause));

function tell(name: string, all: readonly Told[]): void {
  const order = [...all].sort((a, b) => b.outlook.score - a.outlook.score);
  const listed = order.filter(({ outlook }) => outlook.score >= listedFrom);
  const flaky = all.filter(({ flakes }) => flakes);
  const ofTests = flaky.filter(({ cause }) => !notTheTests.has(cause));
  const others = all.filter(({ cause }) => notTheTests.has(cause));
  const row = (words: string, value: string): void => console.log(`  ${words.padEnd(58)} ${value}`);
  console.log(`\n${name}: ${all.length} tests with passing attempts, ${listed.length} listed`);
  row('of the tests that flake, listed', share(listed.filter(({ flakes }) => flakes).length, flaky.length));
  row(
    'of those whose flaw is in the test, listed',
    share(ofTests.filter((one) => listed.includes(one)).length, ofTests.length),
  );
  row(
    '… and listed for it, among what is told of them',
    share(ofTests.filter((one) => listed.includes(one) && named(one)).length, ofTests.length),
  );
  row(
    '… and for it first',
    share(ofTests.filter((one) => listed.includes(one) && named(one, 1)).length, ofTests.length),
  );
  row(
    'of those whose flaw is not in the test, listed all the same',
    share(others.filter((one) => listed.includes(one)).length, others.length),
  );
  row(
    'of the first ten, flake',
    share(order.slice(0, 10).filter(({ flakes }) => flakes).length, Math.min(10, order.length)),
  );
  row(
    'of the first ten, flake by what is told',
    share(order.slice(0, 10).filter((one) => named(one)).length, Math.min(10, order.length)),
  );
  if (!values.list) return;
  for (const { id, cause, outlook } of order) {
    console.log(`  ${outlook.score.toFixed(2)} ${outlook.attempts} ${cause.padEnd(20)} ${id}`);
    for (const risk of outlook.risks.slice(0, 7))
      console.log(
        `       ${becomes[risk.kind].includes(cause) ? '✓' : ' '} ${risk.chance.toFixed(2)} ${risk.kind} ${risk.seen}/${risk.of}: ${risk.summary}`,
      );
  }
}

/** What is believed of a kind before anything is counted, and as how many tests that weighs. */
const before = { chance: 0.3, tests: 2 };

/** The gravest risk of a kind, without what the kind counts for. */
const plainly = ({ outlook }: Told, kind: RiskKind): number =>
  chances[kind] ? Math.max(0, ...outlook.risks.map((one) => (one.kind === kind ? one.chance / chances[kind] : 0))) : 0;

/** What each kind counts for, by how often tests that have it flake by it. */
function learnt(all: readonly Told[]): Record<RiskKind, number> {
  const chanceOf = (kind: RiskKind): number => {
    const sum = (list: readonly Told[]): number => list.reduce((total, one) => total + plainly(one, kind), 0);
    const right = all.filter(({ cause }) => becomes[kind].includes(cause));
    return (sum(right) + before.chance * before.tests) / (sum(all) + before.tests);
  };
  return Object.fromEntries(riskKinds.map((kind) => [kind, chanceOf(kind)])) as Record<RiskKind, number>;
}

/** The same tests as they were told with other chances. */
function toldBy(all: readonly Told[], counts: Record<RiskKind, number>): Told[] {
  return all.map((one) => {
    const risks = one.outlook.risks
      .map((risk) => ({
        ...risk,
        chance: chances[risk.kind] ? (risk.chance / chances[risk.kind]) * counts[risk.kind] : 0,
      }))
      .sort((a, b) => b.chance - a.chance);
    const score = 1 - riskKinds.reduce((none, kind) => none * (1 - plainly(one, kind) * counts[kind]), 1);
    return { ...one, outlook: { ...one.outlook, risks, score } };
  });
}

const everything: Told[] = [];
async function* sitesWanted(): AsyncGenerator<RecordedSite> {
  const { sites } = values;
  if (sites) yield* recordedSites({ ...values, sites });
  if (values.yard) yield recordedYard(values.yard);
}
for await (const site of sitesWanted()) {
  const told = await toldAt(site);
  everything.push(...told);
  tell(site.name, told);
}
tell('together', everything);
const sites = [...new Set(everything.map(({ site }) => site))];
if (sites.length > 1) {
  const leftOut = sites.flatMap((site) =>
    toldBy(
      everything.filter((one) => one.site === site),
      learnt(everything.filter((one) => one.site !== site)),
    ),
  );
  tell('each site told by what the others show', leftOut);
  const bins = [0, 0.15, 0.3, 0.45, 0.6, 0.75, 1.01];
  for (const [i, from] of bins.slice(0, -1).entries()) {
    const own = leftOut.filter(({ outlook }) => outlook.score >= from && outlook.score < bins[i + 1]!);
    console.log(
      `  told ${from} to ${Math.min(1, bins[i + 1]!)}: flake by what is told ${share(own.filter((one) => named(one)).length, own.length)}`,
    );
  }
  console.log(
    '\nlearnt from all:',
    JSON.stringify(learnt(everything), (_, value: unknown) =>
      typeof value === 'number' ? Math.round(value * 100) / 100 : value,
    ),
  );
}
console.log('\nby kind: tests that have it as plainly as it can be, and flake by it');
for (const kind of riskKinds) {
  const having = everything.filter(({ outlook }) =>
    outlook.risks.some((one) => one.kind === kind && one.chance >= 0.6 * chances[kind]),
  );
  const right = having.filter(({ cause }) => becomes[kind].includes(cause)).length;
  const missed = everything.filter(({ cause }) => becomes[kind][0] === cause).length;
  console.log(
    `  ${kind.padEnd(24)} ${share(right, having.length)}; ${missed} tests flake by ${becomes[kind][0] ?? 'nothing'}`,
  );
}
process.exit(0);
