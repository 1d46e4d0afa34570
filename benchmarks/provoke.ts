// Whether a search brings on demand what fails now and then: each drill is made from a recorded failure of a site that
// others wrote, or of the yard, every visit draws its own fate, and the search is asked for what provokes the failure.
// Run: npm run bench:provoke -- [--sites FOLDER [--into .iskel/sites] [--seed 1000] [--only SITE,SITE]] [--yard .iskel/yard] [--case ID] [--sample N] [--rate 0.03] [--forbid KIND,KIND] [--mend] [--verbose]
// With --sample only so many of each site's, drawn by the seed among those whose fault a visit can have.
// With --forbid the search may not use what could bring it: then nothing may be found.
// With --mend the remedies of what was brought are proven as well, at most three of each, until one mends.
import { parseArgs } from 'node:util';
import type { Remedy } from '../src/core/remedies/remedy.ts';
import type { Shift } from '../src/core/stats/hodges-lehmann.ts';
import { median } from '../src/core/stats/median.ts';
import { seeded } from '../src/core/stats/seeded.ts';
import type { Finding } from '../src/core/trials/findings.ts';
import { roundedDose } from '../src/core/trials/dose.ts';
import { nextMend } from '../src/core/trials/mend.ts';
import type { ProofVerdict } from '../src/core/trials/proof.ts';
import { atDose, kindsOfStressor, type Stressor } from '../src/core/trials/stressor.ts';
import { json } from '../tests/helpers.ts';
import { groundOptions, groundsOf } from './grounds/grounds.ts';

const { values } = parseArgs({
  options: {
    ...groundOptions,
    sample: { type: 'string' },
    rate: { type: 'string', default: '0.03' },
    trials: { type: 'string', default: '80' },
    minutes: { type: 'string', default: '5' },
    forbid: { type: 'string' },
    mend: { type: 'boolean', default: false },
    verbose: { type: 'boolean', default: false },
  },
});
const rate = Number(values.rate);
/** A finding is played so often again, by itself. */
const again = 20;

/** Trials a quarter under and a quarter over the dose that was found: the true one lies between where they disagree. */
const doseTrials = 6;

/** Trials with a remedy, under what provokes the failure. */
const proofTrials = 40;

interface ProofView {
  state: string;
  verdict: ProofVerdict;
  words: string;
  cost: Shift | null;
  plain: { before: { medianMs: number | null } };
}
interface SeriesView {
  state: string;
  problem: string | null;
  done: number;
  failed: number;
  findings: { stressors: Stressor[]; words: string; dose: Finding['dose']; specific: boolean | null }[];
  ruledOut: string[];
  search: {
    ended: string;
    arms: { words: string; n: number; same: number; other: number; phase: string; why: string }[];
  };
}

/** So many of a list, drawn by the seed, in the list's own order. */
function sampled<T>(list: readonly T[], n: number): T[] {
  const random = seeded(Number(values.seed));
  const drawn = new Set(
    [...list]
      .map((one) => ({ one, at: random() }))
      .sort((a, b) => a.at - b.at)
      .slice(0, n)
      .map(({ one }) => one),
  );
  return list.filter((one) => drawn.has(one));
}
const told: { right: boolean; trials: number; seconds: number }[] = [];
/** Of each that has a dose: whether it begins within a quarter of it. */
const doses: boolean[] = [];
/** Of each that was brought: which remedy mended it, if one did, and what that costs. */
const mended: { which: number | undefined; cheap: boolean }[] = [];
for await (const { name, cases, api, open, drillOf } of groundsOf(values)) {
  let visit = (): Promise<void> | void => undefined;
  const pages = await open(() => visit());
  const over = async <T extends { state: string }>(path: string): Promise<T> => {
    for (;;) {
      const { body } = await json<T>('GET', `${api}${path}`);
      if (!['waiting', 'running'].includes(body.state)) return body;
      await new Promise((done) => setTimeout(done, 200));
    }
  };
  const ended = (id: string): Promise<SeriesView> => over<SeriesView>(`/series/${id}`);
  const playedWith = async (drillId: string, stressors: Stressor[], trials: number): Promise<SeriesView> => {
    const { body } = await json<{ id: string }>('POST', `${api}/series`, { drillId, trials, stressors });
    return ended(body.id);
  };
  const tryDose = async (drillId: string, { stressors, dose }: SeriesView['findings'][number]): Promise<void> => {
    const [only] = stressors;
    const kind = only && kindsOfStressor[only.kind].dose;
    if (!dose || !kind || stressors.length > 1) return;
    const at = (share: number): number => roundedDose(kind.none + (dose.value - kind.none) * share, kind.unit);
    const under = await playedWith(drillId, [atDose(only, at(0.75))], doseTrials);
    const over = await playedWith(drillId, [atDose(only, at(1.25))], doseTrials);
    const right = under.failed * 2 < under.done && over.failed * 2 > over.done;
    doses.push(right);
    console.log(
      `      ${right ? '✓' : '✗'} dose ${dose.value} ${dose.unit}: ${under.failed} of ${under.done} at ${at(0.75)}, ${over.failed} of ${over.done} at ${at(1.25)}`,
    );
  };
  /** Proves one remedy after the other, as “provoke, mend, prove” does. */
  const mend = async (attempt: string, drillId: string, stressors: Stressor[]): Promise<void> => {
    const { remedies } = (await json<{ remedies: Remedy[] }>('GET', `${api}/attempts/${attempt}/advice`)).body;
    const proofs: { remedy: string; verdict: ProofVerdict }[] = [];
    let cheap = false;
    for (;;) {
      const next = nextMend({ findings: [{ stressors } as Finding], remedies, proofs });
      if ('ended' in next) {
        if (!next.mended) console.log(`      ${next.ended}`);
        mended.push({ which: next.mended ? proofs.length : undefined, cheap });
        return;
      }
      const remedy = next.prove;
      const what = { drillId, remedy: remedy.id, stressors, trials: proofTrials };
      const begun = await json<{ id: string; error?: { message: string } }>('POST', `${api}/proofs`, what);
      if (begun.status !== 202) {
        console.log(`      – ${remedy.words}: ${begun.body.error?.message}`);
        proofs.push({ remedy: remedy.id, verdict: 'unsure' });
        continue;
      }
      const proof = await over<ProofView>(`/proofs/${begun.body.id}`);
      proofs.push({ remedy: remedy.id, verdict: proof.verdict });
      cheap = (proof.cost?.point ?? 0) < Math.max(100, 0.05 * (proof.plain.before.medianMs ?? 0));
      console.log(
        `      ${proof.verdict}: ${remedy.words}. ${proof.words}; costs ${proof.cost ? `${proof.cost.point} ms (${proof.cost.low} to ${proof.cost.high}) of ${Math.round(proof.plain.before.medianMs ?? 0)}` : '?'}`,
      );
    }
  };
  try {
    const flaky = cases.filter(({ kind }) => kind === 'flaky');
    const wanted = values.sample
      ? sampled(
          flaky.filter(({ needsMore }) => !needsMore),
          Number(values.sample),
        )
      : flaky;
    for (const one of wanted) {
      if (values.case && !values.case.split(',').includes(one.id)) continue;
      const drill = await drillOf(one.id);
      if (!drill) {
        console.log(`  – ${name} ${one.id.padEnd(26)} none of its attempts failed when they were recorded`);
        continue;
      }
      const random = seeded(Number(values.seed));
      const [bad, fine] = [one.visits(true), one.visits(false)];
      visit = () => {
        const from = random() < rate && bad.length ? bad : fine;
        return from[Math.floor(random() * from.length)]?.();
      };
      const from = performance.now();
      const forbid = values.forbid?.split(',');
      const search = {
        budget: { trials: Number(values.trials), minutes: Number(values.minutes) },
        ...(forbid ? { forbid } : {}),
      };
      const begun = await json<{ id: string }>('POST', `${api}/series`, { drillId: drill.id, search });
      const view = await ended(begun.body.id);
      const seconds = Math.round((performance.now() - from) / 1000);
      const [finding] = view.findings;
      let brings = '';
      let right = false;
      if (finding) {
        const played = await playedWith(drill.id, finding.stressors, again);
        right = !forbid && played.failed >= played.done * 0.9;
        brings = `${played.failed} of ${played.done} again`;
      }
      if (forbid) right = !finding;
      told.push({ right, trials: view.done, seconds });
      console.log(
        `  ${right ? '✓' : '✗'} ${name} ${one.id.padEnd(26)} ${one.cause.padEnd(17)} ${view.done} trials, ${seconds} s: ${finding ? `${finding.words} ${brings}` : `nothing (${view.search?.ended ?? view.problem})`}`,
      );
      if (right && finding) await tryDose(drill.id, finding);
      if (right && finding && values.mend) await mend(drill.attempt, drill.id, finding.stressors);
      if (values.verbose || !right)
        for (const arm of view.search?.arms ?? [])
          console.log(
            `      ${arm.phase.padEnd(12)} ${arm.same}/${arm.n}${arm.other ? ` (${arm.other} other)` : ''} ${arm.words}  – ${arm.why}`,
          );
    }
  } finally {
    await pages.close();
  }
}
console.log(
  `${told.filter(({ right }) => right).length} of ${told.length} ${values.forbid ? 'rightly told that nothing brings them' : 'brought on demand'}; median ${median(told.map(({ trials }) => trials))} trials, ${median(told.map(({ seconds }) => seconds))} s`,
);
console.log(`${doses.filter(Boolean).length} of ${doses.length} doses within a quarter of the true one`);
if (values.mend && mended.length)
  console.log(
    `${mended.filter(({ which }) => which === 1).length} of ${mended.length} mended by the first remedy, ${mended.filter(({ which }) => which !== undefined).length} by one of three; ${mended.filter(({ which, cheap }) => which !== undefined && cheap).length} of those for under 100 ms or 5 %`,
  );
process.exit(0);
