import { isDeepStrictEqual } from 'node:util';
import type { Analysis } from '../../core/analyse.ts';
import { priorsOf } from '../../core/causes/learning.ts';
import { isFailure, type Outcome } from '../../core/evidence/attempt.ts';
import { previewRules } from '../../core/rules/preview.ts';
import {
  previewFrames,
  previewHosts,
  previewLimits,
  previewMask,
  previewThresholds,
} from '../../core/rules/preview-reading.ts';
import type { WholePreview } from '../../core/rules/told.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import { linearPattern } from '../../core/patterns/linear-pattern.ts';
import { analyseStored, toJudge, type Reading } from '../ingest/analyse-stored.ts';
import type { Store } from '../store/store.ts';

/** Masks are tried on the texts of so many attempts, the latest. */
const mostMasked = 60;
const mostTexts = 4000;
/** Requests and sizes are looked at in so many of the latest attempts; so many are read by other thresholds, half of them failing. */
const mostLooked = 200;
const mostRead = 40;

/** Tries rules on the latest runs. For a thread: reads much. */
export async function previewOf(store: Store, rules: StandingRules): Promise<WholePreview> {
  const { complaints } = store;
  const now = store.rules.get();
  const runs = complaints.latestRuns();
  const heard = [...complaints.heardLately()];
  const preview = previewRules(rules, heard, runs.length);
  const held = previewRules(now, heard, runs.length);
  return {
    ...preview,
    now: {
      console: now.console.effect === 'off' ? 0 : held.console.wouldFail,
      requests: now.requests.effect === 'off' ? 0 : held.requests.wouldFail,
      risks: now.risks.effect === 'off' ? 0 : held.risks.wouldFail,
    },
    hosts: previewHosts(rules.hosts, requestsOf(store, heard.slice(0, mostLooked))),
    thresholds: previewThresholds(await readTwice(store, heard, rules)),
    limits: previewLimits(
      rules.limits,
      heard.slice(0, mostLooked).map(({ id }) => store.events.holds(id)),
    ),
    frames: previewFrames(now.frames, rules.frames, store.attempts.stacksOf(runs)),
    masks: rules.masks.map((mask) =>
      now.masks.includes(mask) ? null : previewMask(linearPattern(mask), textsOf(store, heard.slice(0, mostMasked))),
    ),
  };
}

function* requestsOf(store: Store, attempts: readonly { id: string }[]): Parameters<typeof previewHosts>[1] {
  for (const { id } of attempts) yield { attempt: id, hosts: store.events.hostsOf(id) };
}

/** The latest attempts read by the thresholds that hold and by others; none where they are the same. */
async function readTwice(
  store: Store,
  heard: readonly { id: string; title: string; outcome: Outcome }[],
  { thresholds }: StandingRules,
): Promise<{ attempt: string; title: string; before: Analysis; after: Analysis }[]> {
  const now = store.rules.get();
  if (isDeepStrictEqual(now.thresholds, thresholds)) return [];
  const failing = heard.filter(({ outcome }) => isFailure(outcome)).slice(0, mostRead / 2);
  const passing = heard.filter(({ outcome }) => outcome === 'passed').slice(0, mostRead - failing.length);
  const out: Awaited<ReturnType<typeof readTwice>> = [];
  for (const { id, title } of [...failing, ...passing]) {
    const attempt = store.attempts.get(id);
    if (!attempt) continue;
    const read = async (by: Reading): Promise<Analysis> =>
      (await analyseStored(store, toJudge(attempt, store.runs.get(attempt.runId)?.commit, by), priorsOf([], 0)))
        .analysis;
    out.push({ attempt: id, title, before: await read(now), after: await read({ ...now, thresholds }) });
  }
  return out;
}

function* textsOf(
  store: Store,
  attempts: readonly { id: string }[],
): Generator<{ attempt: string; texts: Iterable<{ event: string; text: string }> }> {
  for (const { id } of attempts) yield { attempt: id, texts: store.events.texts(id, mostTexts) };
}
