import { quote, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, sameInPassing } from './scene.ts';

/** All passing attempts gave the same value, on other commits; this one gives another. */
export const valueSinceCommit: ClueKind = {
  code: 'value-since-commit',
  about: 'The value differs from that of all passing attempts, which ran on other commits.',
  find: (scene) => {
    const step = failingStep(scene);
    const { commit } = scene.sketch;
    if (!step || step.value === undefined || !commit) return [];
    const commits = scene.passing.flatMap((one) => one.commit ?? []);
    const others = sameInPassing(scene, step).flatMap((one) => one.value ?? []);
    if (commits.length === 0 || commits.includes(commit) || others.length === 0) return [];
    if (new Set(others).size > 1 || others[0] === step.value) return [];
    return [
      {
        at: step.at,
        summary: `${said(step.label)} gives ${quote(shorten(step.value, 28))} on ${commit.slice(0, 10)}; ${ofPassing(others.length, others.length)}, on other commits, ${quote(shorten(others[0]!, 28))}`,
        strength: others.length >= 3 ? 1 : 0.75,
        evidence: step.events,
      },
    ];
  },
};
