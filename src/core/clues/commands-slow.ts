import { endOf } from '../evidence/event.ts';
import { median } from '../stats/median.ts';
import type { ClueKind } from './clue.ts';
import { thresholdsOf } from './thresholds.ts';

/** Fewer plain questions than this say nothing of a machine. */
const leastCommands = 6;

/** Plain questions took long, which no page can make them: told where no passing attempt is known to compare with. */
export const commandsSlow: ClueKind = {
  code: 'commands-slow',
  about: 'Plain finds and reads of what was there took unusually long.',
  find: (scene) => {
    const plain = scene.steps.filter(
      (step) => (step.data.action === 'find' || step.data.action === 'read') && !step.data.error,
    );
    if (plain.length < leastCommands) return [];
    const usual = median(plain.map((step) => endOf(step) - step.at));
    // A find or a read of what is there takes some ten milliseconds; much more means that the machine is short of time.
    const slowMs = thresholdsOf(scene).slowCommandMs;
    if (usual < slowMs) return [];
    return [
      {
        at: plain[0]!.at,
        until: endOf(plain.at(-1)!),
        summary: `Plain finds and reads took ${Math.round(usual)} ms each, in the middle`,
        strength: Math.min(1, usual / (2 * slowMs)),
        evidence: plain.slice(0, 6).map((step) => step.id),
      },
    ];
  },
};
