import { lackingEvidence } from './causes/would-tell.ts';
import { waitsFor, type Source } from './clues/waits-for.ts';
import type { Priors } from './causes/learning.ts';
import { scoreSuspects, type Suspects } from './causes/score.ts';
import type { Clue } from './clues/clue.ts';
import { findClues } from './clues/register.ts';
import { sceneOf } from './clues/scene.ts';
import { contrast, type Split } from './contrast/contrast.ts';
import type { Sketch, SketchFacts } from './contrast/sketch.ts';
import type { ReadMarkup } from './evidence/documents.ts';
import type { EvidenceEvent, Locator } from './evidence/event.ts';
import { locatorsUsed } from './evidence/locators-used.ts';
import type { AttemptFacts } from './evidence/prepare.ts';
import type { Failure } from './failures/failure.ts';
import type { Ordinary } from './ordinary/ordinary.ts';
import type { Shown } from './trials/shown.ts';
import type { Look } from './vision/compare.ts';
import { familyId, fingerprint } from './families/fingerprint.ts';
import { complaintsOf, type Complaint } from './rules/complaints.ts';
import { risksOf } from './risks/register.ts';
import type { Risk } from './risks/risk.ts';

/** Raised whenever rules change, so that what was analysed by older rules is found and done again. */
export const analysisVersion = 23;

export interface Analysis extends Suspects {
  failure?: Failure;
  /** Family of the failure and the text it was made from. */
  family?: { id: string; fingerprint: string };
  clues: Clue[];
  /** Waits, pauses and polls inferred from the commands. */
  derived: EvidenceEvent[];
  /** New sentences of command steps, by id. */
  labels: Record<string, string>;
  /** What it looked with: watched from the start of the test’s next attempt on. */
  locators: Locator[];
  /** The attempt in few words, to hold others against; absent where nobody drew one. */
  sketch?: Sketch;
  /** How many passing attempts it was held against. */
  baseline?: number;
  /** How many passing attempts, of all tests, told what is ordinary. */
  ordinary?: number;
  /** Where it parts from them. */
  split?: Split;
  /** What the failing step waits for, and what evidence would tell more. */
  why?: Why;
  /** What the page complained of: standing rules are held against it. */
  complaints: Complaint[];
  /** Why it may not pass the next time; of attempts that passed. */
  risks: Risk[];
}

/** What stands behind the suspects of a failure. */
export interface Why {
  waitsFor: Source[];
  lacks: string[];
}

/** What the analysis needs to know besides the events and what is told of the outcome. */
export interface Surroundings extends SketchFacts {
  /** Suite and title of its test: two tests' own bodies are two places. */
  test?: string;
  /** Passing attempts of the same test, to hold it against; none when none is known. */
  passing: readonly Sketch[];
  /** Others of the same test that failed as this one did: they part where it parts, and many tell it surer. */
  kin?: (print: string) => readonly Sketch[];
  /** What trials of a failure have shown, where a search for what provokes it was played. */
  trials?: (print: string) => Shown | undefined;
  /** What the picture of the failure shows, where somebody looked. */
  look?: Look;
  /** What happens in attempts that pass, of all tests; nothing is held against it without. */
  ordinary?: Ordinary;
  /** Reads documents that were written down; what only they tell is not told without. */
  markup?: ReadMarkup;
  /** What the workspace’s confirmed verdicts make likely; nothing leans without them. */
  priors?: Priors;
}

/** From the events of one settled attempt to everything that is said about it. */
export function analyse(events: readonly EvidenceEvent[], facts: AttemptFacts, surroundings: Surroundings): Analysis {
  const alone = sceneOf(events, facts, surroundings);
  const { failure, sketch } = alone;
  const print = failure && fingerprint(failure, alone.failing, surroundings.test);
  const family = print ? { id: familyId(print), fingerprint: print } : undefined;
  const kin = (family && surroundings.kin?.(family.fingerprint)) ?? [];
  const together = kin.length ? contrast([sketch, ...kin], surroundings.passing) : undefined;
  const trials = family && surroundings.trials?.(family.fingerprint);
  const scene = { ...alone, ...(together ? { together, kin } : {}), ...(trials ? { trials } : {}) };
  const split = (together ?? scene.against)?.split;
  const clues = findClues(scene);
  const risks = risksOf(scene);
  return {
    ...(failure ? { failure } : {}),
    ...(family ? { family } : {}),
    clues,
    ...scoreSuspects(clues, facts.outcome, surroundings.priors),
    derived: [...scene.waits, ...scene.polls],
    labels: Object.fromEntries(scene.steps.map((step) => [step.id, step.data.label])),
    locators: locatorsUsed(scene.steps),
    sketch,
    baseline: surroundings.passing.length,
    ...(surroundings.ordinary ? { ordinary: surroundings.ordinary.size } : {}),
    ...(split ? { split } : {}),
    ...(failure ? { why: { waitsFor: waitsFor(scene), lacks: lackingEvidence(scene) } } : {}),
    complaints: complaintsOf(scene, clues, risks),
    risks,
  };
}
