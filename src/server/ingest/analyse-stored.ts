import type Database from 'better-sqlite3';
import { analyse, type Analysis } from '../../core/analyse.ts';
import type { Priors } from '../../core/causes/learning.ts';
import { environmentKey, isFailure } from '../../core/evidence/attempt.ts';
import { findWords } from '../../core/evidence/find-words.ts';
import type { AttemptFacts } from '../../core/evidence/prepare.ts';
import type { Attempt } from '../../core/records.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import type { Blobs } from '../store/blobs.ts';
import type { Events } from '../store/events.ts';
import type { FindDoc } from '../store/find.ts';
import { neighboursOf } from '../store/neighbours.ts';
import { ordinaryOf } from '../store/ordinary-kept.ts';
import { shownTrials } from '../store/shown-trials.ts';
import type { Sketches } from '../store/sketches.ts';
import { lookAtFailure } from './look.ts';

/** Where an attempt's evidence lies, and what it is held against. */
export interface EvidenceShelves {
  db: Database.Database;
  events: Events;
  sketches: Sketches;
  blobs: Blobs;
}

/** What is known of an attempt besides its evidence. */
export interface AttemptToJudge {
  id: string;
  facts: AttemptFacts;
  about: { test: string; title: string; environmentKey: string; startedAt: number; commit?: string };
}

/** By which of the standing rules evidence is read. */
export type Reading = Pick<StandingRules, 'frames' | 'thresholds'>;

export interface Analysed {
  analysis: Analysis;
  words: FindDoc;
}

/** An attempt as the analysis is told of it. */
export function toJudge(attempt: Attempt, commit: string | null | undefined, rules: Reading): AttemptToJudge {
  const { id, outcome, message, stack, environment, startedAt } = attempt;
  const { file } = attempt.test;
  return {
    id,
    facts: {
      outcome,
      message,
      stack,
      environment,
      ...(file ? { file } : {}),
      rules: rules.frames,
      thresholds: rules.thresholds,
    },
    about: {
      test: attempt.test.id,
      title: `${attempt.test.suite}\n${attempt.test.title}`,
      environmentKey: environmentKey(environment),
      startedAt,
      ...(commit ? { commit } : {}),
    },
  };
}

/**
 * The one analysis, whatever brought an attempt here: recorded, streamed, delivered or restored from a pack. Gathers
 * what it is held against and looks at: neighbours, kin, passing attempts, the picture of its failure.
 * @param priors what the workspace's confirmed verdicts make likely
 */
export async function analyseStored(
  { db, events, sketches, blobs }: EvidenceShelves,
  { id, facts, about }: AttemptToJudge,
  priors: Priors,
): Promise<Analysed> {
  const recorded = events.recorded(id);
  const fails = isFailure(facts.outcome);
  const neighbours = fails || recorded.length ? neighboursOf(db, id) : undefined;
  const look = fails && recorded.length ? await lookAtFailure(recorded, (blob) => blobs.read(blob)) : undefined;
  const analysis = analyse(recorded, facts, {
    id,
    startedAt: about.startedAt,
    test: about.title,
    ...(about.commit ? { commit: about.commit } : {}),
    ...(neighbours ? { neighbours } : {}),
    ...(look ? { look } : {}),
    ...(fails ? { markup: (blob: string) => blobs.text(blob) } : {}),
    priors,
    ...(fails && recorded.length ? { ordinary: ordinaryOf(db) } : {}),
    // Without evidence of its own there is nothing to hold against anything.
    ...(fails ? { trials: (print: string) => shownTrials(db, id, about.test, print)?.shown } : {}),
    kin: (print) => (recorded.length ? sketches.failingAs(print, about.test, id) : []),
    passing: recorded.length ? sketches.baseline(about.test, id, about.environmentKey) : [],
  });
  return { analysis, words: findWords(recorded, facts.message, analysis.failure?.sentence ?? '') };
}
