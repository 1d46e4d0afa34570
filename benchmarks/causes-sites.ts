// How often the leading suspect is right at sites that others wrote, each measured by itself.
// Run: npm run bench:causes -- --sites FOLDER [--into .iskel/sites] [--seed 1000] [--attempts 6] [--earlier 0] [--alone] [--wrong CASE|all]
import { parseArgs } from 'node:util';
import type { CauseCode } from '../src/core/causes/cause.ts';
import { calibrationError } from './calibration.ts';
import { judged, type Judged } from './sites/judged.ts';
import { recordedSites } from './sites/recorded.ts';

const { values } = parseArgs({
  options: {
    sites: { type: 'string' },
    into: { type: 'string', default: '.iskel/sites' },
    only: { type: 'string' },
    seed: { type: 'string', default: '1000' },
    attempts: { type: 'string', default: '6' },
    earlier: { type: 'string', default: '0' },
    alone: { type: 'boolean', default: false },
    wrong: { type: 'string' },
    record: { type: 'boolean', default: false },
  },
});
if (!values.sites) throw new Error('say where the sites are: --sites FOLDER');

const percent = (hits: number, of: number): string => (of ? `${((100 * hits) / of).toFixed(0)} %` : '–').padStart(6);
const leads = ({ analysis }: Judged): CauseCode | undefined =>
  analysis.undetermined ? undefined : analysis.suspects[0]!.cause;
const isRight = (one: Judged): boolean => leads(one) === one.label.cause;
const isAmongTwo = ({ analysis, label }: Judged): boolean =>
  analysis.suspects.slice(0, 2).some(({ cause }) => cause === label.cause);
const sure = ({ analysis }: Judged): boolean => analysis.suspects[0]!.probability >= 0.8;

/** Mean over the causes of the share that is so. */
function overCauses(list: readonly Judged[], so: (one: Judged) => boolean): number {
  const byCause = new Map<CauseCode, Judged[]>();
  for (const one of list) byCause.set(one.label.cause, [...(byCause.get(one.label.cause) ?? []), one]);
  return [...byCause.values()].reduce((sum, own) => sum + own.filter(so).length / own.length, 0) / byCause.size;
}

const calibration = (list: readonly Judged[]): number =>
  calibrationError(
    list.map(({ label, analysis: { suspects } }) => ({
      probability: suspects[0]!.probability,
      right: suspects[0]!.cause === label.cause,
    })),
  );

/** How well a grouping agrees with the cases, corrected for chance (Hubert and Arabie 1985); 1 is all. */
function adjustedRand(list: readonly Judged[]): number {
  const pairs = (n: number): number => (n * (n - 1)) / 2;
  const count = (key: (one: Judged) => string): number => {
    const sizes = new Map<string, number>();
    for (const one of list) sizes.set(key(one), (sizes.get(key(one)) ?? 0) + 1);
    return [...sizes.values()].reduce((sum, n) => sum + pairs(n), 0);
  };
  const family = (one: Judged): string => one.analysis.family?.id ?? '';
  const both = count((one) => `${one.label.caseId} ${family(one)}`);
  const [cases, families] = [count(({ label }) => label.caseId), count(family)];
  const expected = (cases * families) / pairs(list.length);
  return (both - expected) / ((cases + families) / 2 - expected);
}

function tell(name: string, all: readonly Judged[]): void {
  const hurt = all.filter(({ label }) => label.hurt);
  const honest = all.filter(({ label }) => label.honest);
  const falsely = hurt.filter(({ label }) => label.outcome === 'passed');
  const named = hurt.filter(({ analysis }) => !analysis.undetermined);
  const certain = hurt.filter(sure);
  const failed = hurt.filter(({ label }) => label.outcome === 'failed');
  console.log(`\n${name}: ${hurt.length} attempts of ${new Set(hurt.map(({ label }) => label.caseId)).size} cases`);
  const row = (words: string, value: string): void => console.log(`  ${words.padEnd(44)} ${value}`);
  row('leading suspect right, mean over causes', percent(overCauses(hurt, isRight), 1));
  row('leading suspect right, of attempts', percent(hurt.filter(isRight).length, hurt.length));
  row('among two, mean over causes', percent(overCauses(hurt, isAmongTwo), 1));
  row('calibration error', calibration(hurt).toFixed(3).padStart(6));
  row(
    'right of those given 0.8 and more',
    `${percent(certain.filter(isRight).length, certain.length)} of ${certain.length}`,
  );
  row('right of those named', `${percent(named.filter(isRight).length, named.length)} of ${named.length}`);
  const accused = honest.filter(({ analysis }) => analysis.suspects[0]!.probability >= 0.5);
  row('honest passes accused', `${percent(accused.length, honest.length)} of ${honest.length}`);
  row('false passes found', `${percent(falsely.filter(isRight).length, falsely.length)} of ${falsely.length}`);
  row('families against cases, adjusted Rand index', adjustedRand(failed).toFixed(3).padStart(6));
  const ids = [...new Set(hurt.map(({ label }) => label.caseId))];
  for (const id of ids) {
    const own = hurt.filter(({ label }) => label.caseId === id);
    const instead = new Map<string, number>();
    for (const one of own.filter((each) => !isRight(each))) {
      const first = one.analysis.suspects[0]!;
      const said = `${one.analysis.undetermined ? '?' : ''}${first.cause} ${first.probability.toFixed(2)}`;
      instead.set(said, (instead.get(said) ?? 0) + 1);
    }
    console.log(
      `  ${own[0]!.label.cause.padEnd(20)} ${id.padEnd(28)} ${own.filter(isRight).length}/${own.length}  two ${own.filter(isAmongTwo).length}  ${[...instead].map(([said, n]) => `${said} ×${n}`).join(', ')}`,
    );
  }
  if (values.wrong)
    for (const { label, analysis } of hurt.filter((one) =>
      values.wrong === 'all' ? !isRight(one) : one.label.caseId === values.wrong,
    )) {
      console.log(
        `\n  ${label.caseId} (${label.cause}) ${label.id}: ${label.message}\n    ${analysis.failure?.sentence}`,
      );
      for (const suspect of analysis.suspects.slice(0, 4))
        console.log(
          `    ${suspect.cause} ${suspect.probability.toFixed(2)}  for ${suspect.for.map((c) => c.code).join(', ')}  against ${suspect.against.map((c) => c.code).join(', ')}`,
        );
      for (const clue of analysis.clues) console.log(`      ${clue.code} ${clue.strength}: ${clue.summary}`);
    }
}

for await (const site of recordedSites({ ...values, sites: values.sites })) {
  if (!values.record) tell(site.name, await judged(site, values.alone));
}
process.exit(0);
