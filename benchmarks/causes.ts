// How often the leading suspect is right, over attempts recorded from the yard's mechanisms by real sessions.
// Rules and weights are made on one part of the mechanisms and measured here on the other, which they never saw.
// Run: npm run bench:causes [-- --part held|learning|all --from FOLDER --wrong --splits]; records the yard first when it is not there.
// With --sites FOLDER: over sites that others wrote, see causes-sites.ts.
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import type { Label } from '../demo/yard/attempt.ts';
import { mechanisms } from '../demo/yard/mechanisms.ts';
import { analyse, type Analysis } from '../src/core/analyse.ts';
import { poolSuspects, type FamilySuspect } from '../src/core/causes/family.ts';
import type { Sketch } from '../src/core/contrast/sketch.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { pictureAtFailure } from '../src/core/evidence/picture-at-failure.ts';
import { Ordinary } from '../src/core/ordinary/ordinary.ts';
import type { Look } from '../src/core/vision/compare.ts';
import { lookAtFailure } from '../src/server/ingest/look.ts';
import { Store } from '../src/server/store/store.ts';
import { calibrationError } from './calibration.ts';

// Sites of others are measured by a program of their own, which ends this one.
if (process.argv.includes('--sites')) await import('./causes-sites.ts');

const { values } = parseArgs({
  options: {
    part: { type: 'string', default: 'held' },
    from: { type: 'string', default: '.iskel/yard' },
    wrong: { type: 'boolean', default: false },
    splits: { type: 'boolean', default: false },
  },
});
const labelsFile = join(values.from, 'labels.json');
if (!existsSync(labelsFile)) {
  const script = fileURLToPath(new URL('../demo/yard/record.ts', import.meta.url));
  spawnSync(process.execPath, ['--import', 'tsx', script, '--into', values.from], { stdio: 'inherit' });
}
const labels = (JSON.parse(readFileSync(labelsFile, 'utf8')) as Label[]).sort((a, b) => a.startedAt - b.startedAt);
const store = new Store(values.from, 'thread');
const known = new Map(mechanisms.map((one) => [one.id, one]));

/** What a runner without any recording leaves behind: the report’s notes, the console, and a screenshot of the failure. */
function left(events: readonly EvidenceEvent[]): EvidenceEvent[] {
  const shown = pictureAtFailure(events);
  return events.flatMap((event): EvidenceEvent[] => {
    if (event.id === shown?.id) return [{ ...shown, kind: 'screenshot' }];
    if (event.lane === 'console' || (event.lane === 'screen' && event.kind === 'screenshot')) return [event];
    return event.lane === 'note' && event.kind !== 'recorder' ? [event] : [];
  });
}
const whole = (events: readonly EvidenceEvent[]): readonly EvidenceEvent[] => events;

/** How much of the evidence, and of what is known besides, an analysis is given. */
const modes = {
  'with passing attempts': { baseline: true, given: whole },
  'no passing attempt known': { baseline: false, given: whole },
  'report, console and screenshots only, passing ones known': { baseline: true, given: left },
  'report, console and screenshots only': { baseline: false, given: left },
} as const;

const looks = new Map<string, Look | undefined>();
for (const { id, outcome } of labels)
  if (outcome === 'failed')
    looks.set(id, await lookAtFailure(store.events.recorded(id), (blob) => store.blobs.read(blob)));

interface Told {
  label: Label;
  analysis: Analysis;
}

/** What is ordinary in the yard, as a server knows it by the end of a run: from all that passed without doubt. */
function ordinaryHere(): Ordinary {
  const ordinary = new Ordinary();
  for (const { label, analysis } of tellAll('with passing attempts'))
    if (label.outcome === 'passed' && analysis.undetermined) ordinary.take(analysis.sketch!);
  return ordinary;
}

/** Analyses every attempt in the order in which they were recorded, each held against those that passed before it without doubt. */
function tellAll(mode: keyof typeof modes, ordinary?: Ordinary): Told[] {
  const { baseline, given } = modes[mode];
  const passed = new Map<string, Sketch[]>();
  const failed = new Map<string, Sketch[]>();
  return labels.flatMap((label) => {
    const attempt = store.attempts.get(label.id);
    if (!attempt || !known.has(label.mechanism)) return [];
    const { outcome, message, stack, environment } = attempt;
    const commit = store.runs.get(attempt.runId)?.commit;
    const before = passed.get(label.mechanism) ?? [];
    const look = looks.get(label.id);
    const analysis = analyse(
      given(store.events.recorded(label.id)),
      { outcome, message, stack, environment, file: attempt.test.file },
      {
        id: label.id,
        startedAt: label.startedAt,
        ...(commit ? { commit } : {}),
        ...(look ? { look } : {}),
        ...(ordinary && given === whole ? { ordinary } : {}),
        passing: baseline ? before.slice(-24) : [],
        kin: (print) => (failed.get(`${label.mechanism} ${print}`) ?? []).slice(-8),
      },
    );
    if (analysis.family) {
      const key = `${label.mechanism} ${analysis.family.fingerprint}`;
      failed.set(key, [...(failed.get(key) ?? []), analysis.sketch!]);
    }
    if (outcome === 'passed' && analysis.undetermined) passed.set(label.mechanism, [...before, analysis.sketch!]);
    return [{ label, analysis }];
  });
}

const percent = (hits: number, of: number): string => (of ? `${((100 * hits) / of).toFixed(1)} %` : '–').padStart(8);

/** All attempts of one mechanism that failed the same way, speaking together. */
function familiesOf(list: readonly Told[]): { cause: string; pooled: FamilySuspect[] }[] {
  const groups = new Map<string, Told[]>();
  for (const one of list) {
    const key = `${one.label.mechanism} ${one.analysis.family?.id ?? ''}`;
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  return [...groups.values()].map((group) => ({
    cause: group[0]!.label.cause,
    pooled: poolSuspects(group.map(({ label, analysis }) => ({ attempt: label.id, suspects: analysis.suspects }))),
  }));
}

const calibration = (list: readonly Told[]): number =>
  calibrationError(
    list.map(({ label, analysis: { suspects } }) => ({
      probability: suspects[0]!.probability,
      right: suspects[0]!.cause === label.cause,
    })),
  );

/** Was the split the step that was under way when the site parted, or the one after? Undefined where the site told of none. */
function splitIsTrue({ label, analysis }: Told): boolean | undefined {
  if (label.partedAt === undefined || !analysis.baseline) return undefined;
  if (!analysis.split) return false;
  const steps = analysis.sketch!.steps;
  const attempt = store.attempts.get(label.id)!;
  const parted = label.partedAt - attempt.startedAt;
  const before = steps.findLastIndex((step) => step.at <= parted);
  const truth = Math.max(0, label.partsNext ? before + 1 : before);
  const told = Math.max(
    0,
    steps.findLastIndex((step) => step.at <= analysis.split!.at + 0.01),
  );
  return told === truth || told === truth + 1;
}

const inPart = ({ mechanism }: Label): boolean =>
  values.part === 'all' || Boolean(known.get(mechanism)?.held) === (values.part === 'held');
const ordinary = ordinaryHere();
for (const mode of Object.keys(modes) as (keyof typeof modes)[]) {
  const all = tellAll(mode, ordinary).filter(({ label }) => inPart(label));
  // What is measured hurts: it failed, or passed where passing is the fault.
  const hurt = all.filter(
    ({ label }) => label.hurts && (label.outcome === 'failed' || known.get(label.mechanism)!.passes),
  );
  const right = hurt.filter(({ label, analysis }) => analysis.suspects[0]!.cause === label.cause);
  const second = hurt.filter(({ label, analysis }) =>
    analysis.suspects.slice(0, 2).some(({ cause }) => cause === label.cause),
  );
  const told = hurt.filter(({ analysis }) => !analysis.undetermined);
  const clean = all.filter(({ label }) => !label.hurts && label.outcome === 'passed');
  const doubted = clean.filter(({ analysis }) => analysis.suspects[0]!.probability > 0.5);
  console.log(
    `\n${mode}: ${hurt.length} attempts of ${new Set(hurt.map(({ label }) => label.mechanism)).size} mechanisms`,
  );
  console.log(`  leading suspect right            ${percent(right.length, hurt.length)}`);
  console.log(`  right among the first two        ${percent(second.length, hurt.length)}`);
  console.log(`  told (not “can’t tell”)          ${percent(told.length, hurt.length)}`);
  console.log(
    `  right, of those told             ${percent(told.filter((one) => right.includes(one)).length, told.length)}`,
  );
  console.log(`  calibration error                ${calibration(hurt).toFixed(3).padStart(8)}`);
  const families = familiesOf(hurt);
  const among = (cause: string, list: { cause: string }[], first: number): boolean =>
    list.slice(0, first).some((one) => one.cause === cause);
  console.log(
    `  families: leading right          ${percent(families.filter((one) => among(one.cause, one.pooled, 1)).length, families.length)} of ${families.length}; among two ${percent(families.filter((one) => among(one.cause, one.pooled, 2)).length, families.length).trim()}`,
  );
  console.log(`  passing attempts doubted > 0.5   ${percent(doubted.length, clean.length)} of ${clean.length}`);
  if (modes[mode].baseline) {
    const judged = hurt.flatMap((one) => splitIsTrue(one) ?? []);
    console.log(
      `  split true, or one step later    ${percent(judged.filter(Boolean).length, judged.length)} of ${judged.length}`,
    );
  }
  console.log(`  ${'cause'.padEnd(22)} ${'mechanism'.padEnd(30)} hurt  first  two  can’t tell  said instead`);
  for (const mechanism of mechanisms) {
    const own = hurt.filter(({ label }) => label.mechanism === mechanism.id);
    if (own.length === 0) continue;
    const instead = new Map<string, number>();
    for (const one of own) {
      const { cause } = one.analysis.suspects[0]!;
      if (cause !== mechanism.cause && !one.analysis.undetermined) instead.set(cause, (instead.get(cause) ?? 0) + 1);
    }
    const cells = [
      own.length,
      own.filter((one) => right.includes(one)).length,
      own.filter((one) => second.includes(one)).length,
      own.filter(({ analysis }) => analysis.undetermined).length,
    ];
    console.log(
      `  ${mechanism.cause.padEnd(22)} ${mechanism.id.padEnd(30)} ${cells.map((cell) => String(cell).padStart(4)).join('  ')}        ${[...instead].map(([cause, count]) => `${cause} ${count}`).join(', ')}`,
    );
  }
  if (values.splits && modes[mode].baseline)
    for (const one of hurt.filter((told) => splitIsTrue(told) === false)) {
      const parted = one.label.partedAt! - store.attempts.get(one.label.id)!.startedAt;
      const steps = one.analysis.sketch!.steps;
      console.log(
        `  ${one.label.mechanism} parted at ${parted.toFixed(0)} in ${steps.findLastIndex((step) => step.at <= parted)} of ${steps.length}, told ${one.analysis.split ? `${one.analysis.split.at.toFixed(0)} in ${steps.findLastIndex((step) => step.at <= one.analysis.split!.at + 0.01)}: ${one.analysis.split.summary}` : 'none'}`,
      );
    }
  if (values.wrong)
    for (const { label, analysis } of hurt
      .filter((one) => !right.includes(one))
      .filter(({ label }, i, list) => list.findIndex((o) => o.label.mechanism === label.mechanism) === i)) {
      console.log(`\n  ${label.mechanism} (${label.cause}) ${label.id}: ${label.message}`);
      for (const suspect of analysis.suspects.slice(0, 3))
        console.log(
          `    ${suspect.cause} ${suspect.probability.toFixed(2)}  for ${suspect.for.map((c) => c.code).join(', ')}  against ${suspect.against.map((c) => c.code).join(', ')}`,
        );
      for (const clue of analysis.clues) console.log(`      ${clue.code}: ${clue.summary}`);
    }
}
process.exit(0);
