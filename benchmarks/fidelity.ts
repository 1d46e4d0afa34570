// Whether drills do what their tests do: each is made from a recorded failure of a site that others wrote, or of the yard,
// and played with the fault forced on and forced off. With --mend so are the same drills with each of their first remedies.
// Run: npm run bench:fidelity -- [--sites FOLDER [--into .iskel/sites] [--seed 1000] [--only SITE,SITE]] [--yard .iskel/yard] [--case ID] [--each 2] [--mend] [--verbose]
import { parseArgs } from 'node:util';
import type { Remedy } from '../src/core/remedies/remedy.ts';
import { mostRemedies } from '../src/core/trials/mend.ts';
import { json } from '../tests/helpers.ts';
import type { CaseDrill, GroundCase } from './grounds/ground.ts';
import { groundOptions, groundsOf } from './grounds/grounds.ts';

const { values } = parseArgs({
  options: {
    ...groundOptions,
    each: { type: 'string', default: '2' },
    mend: { type: 'boolean', default: false },
    verbose: { type: 'boolean', default: false },
  },
});
const each = Number(values.each);

interface Trial {
  outcome: string;
  same: boolean;
  sentence: string | null;
}
const counts = { on: { all: 0, right: 0 }, off: { all: 0, right: 0 } };
let drills = 0;
/** How many drills that did what their tests do were mended by their first, second … remedy. */
const mendedBy = new Map<string, number>();
for await (const { name, cases, api, open, drillOf, mendedDrillOf } of groundsOf(values)) {
  const pages = await open();
  async function trial(drillId: string): Promise<Trial> {
    const { body } = await json<{ id: string }>('POST', `${api}/series`, { drillId, engine: 'chromium', trials: 1 });
    for (;;) {
      const { body: series } = await json<{
        state: string;
        problem: string | null;
        trials: (Trial & { state: string })[];
      }>('GET', `${api}/series/${body.id}`);
      const [one] = series.trials;
      if (!['waiting', 'running'].includes(series.state) && (!one || one.state === 'ready'))
        return one ?? { outcome: series.problem ?? series.state, same: false, sentence: null };
      await new Promise((done) => setTimeout(done, 150));
    }
  }
  /** A drill's trials with the fault on, then with it off. */
  async function played(one: GroundCase, drillId: string): Promise<{ bad: boolean; trial: Trial }[]> {
    const out: { bad: boolean; trial: Trial }[] = [];
    for (const bad of [true, false])
      for (const visit of one.visits(bad).slice(0, each)) {
        await visit();
        out.push({ bad, trial: await trial(drillId) });
      }
    return out;
  }
  async function mend(one: GroundCase, drill: CaseDrill): Promise<void> {
    const { remedies } = (await json<{ remedies: Remedy[] }>('GET', `${api}/attempts/${drill.attempt}/advice`)).body;
    let by = remedies.length ? 'none of them' : 'none there is';
    for (const [i, { id, words, cause }] of remedies.slice(0, mostRemedies).entries()) {
      const mended = await mendedDrillOf(drill, id);
      const trials = await played(one, mended.id);
      const passed = trials.filter(({ trial: { outcome } }) => outcome === 'passed').length;
      const [wrong] = trials.filter(({ trial: { outcome } }) => outcome !== 'passed');
      const why = wrong ? `: ${wrong.bad ? 'on' : 'off'} ${wrong.trial.outcome} ${wrong.trial.sentence ?? ''}` : '';
      console.log(`      ${passed} of ${trials.length} passed with ${cause}: ${words}${why}`);
      if (values.verbose && wrong) console.log(mended.text.replace(/^/gm, '        '));
      if (wrong) continue;
      by = `number ${i + 1}`;
      break;
    }
    mendedBy.set(by, (mendedBy.get(by) ?? 0) + 1);
  }
  try {
    for (const one of cases) {
      if (one.needsMore || (values.case && !values.case.split(',').includes(one.id))) continue;
      const drill = await drillOf(one.id);
      if (!drill) continue;
      drills++;
      const told: string[] = [];
      const wrong: string[] = [];
      for (const { bad, trial } of await played(one, drill.id)) {
        const { outcome, same, sentence } = trial;
        const right = bad ? outcome !== 'passed' && same : outcome === 'passed';
        const count = bad ? counts.on : counts.off;
        count.all++;
        count.right += Number(right);
        told.push(`${bad ? 'on' : 'off'} ${outcome}${bad && outcome !== 'passed' && !same ? ' otherwise' : ''}`);
        if (!right) wrong.push(`    ${bad ? 'on ' : 'off'}: ${outcome} ${sentence ?? ''}`);
      }
      console.log(`  ${wrong.length ? '✗' : '✓'} ${name} ${one.id.padEnd(28)} ${told.join(', ')}`);
      if (wrong.length && values.verbose)
        console.log(`    test: ${drill.message}\n${wrong.join('\n')}\n${drill.text.replace(/^/gm, '      ')}`);
      if (values.mend && !wrong.length && one.kind === 'flaky') await mend(one, drill);
    }
  } finally {
    await pages.close();
  }
}
const percent = ({ right, all }: { right: number; all: number }): string =>
  `${((100 * right) / Math.max(1, all)).toFixed(1)} % of ${all}`;
console.log(
  `${drills} drills: fault on, the same failure ${percent(counts.on)}; fault off, passed ${percent(counts.off)}`,
);
if (values.mend) for (const [by, n] of mendedBy) console.log(`  mended by ${by}: ${n}`);
process.exit(0);
