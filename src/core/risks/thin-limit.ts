import { endOf, type StepEvent } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import { sketched, type Scene } from '../clues/scene.ts';
import { thresholdsOf } from '../clues/thresholds.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** Under this a page is slow for nobody, whatever the limit. */
const leastMs = 200;

/** Commands that have a limit, and the name it is set by. */
const limited: Record<string, 'pageLoad' | 'script'> = {
  open: 'pageLoad',
  navigate: 'pageLoad',
  script: 'script',
};

/** A wait used most of the time it was given. */
export const thinLimit: RiskFinder = {
  kind: 'thin-limit',
  about: 'A wait used most of its limit: 70 % where the standing rules say nothing else.',
  find: (scene) => {
    const limits: Record<string, number> = {};
    return [
      ...scene.waits.flatMap((wait) =>
        wait.kind === 'wait' && wait.data.ok ? near(scene, wait, wait.data.limitMs) : [],
      ),
      ...scene.steps.flatMap((step) => {
        if (step.data.command === 'set timeouts')
          for (const name of ['pageLoad', 'script'])
            if (typeof step.data[name] === 'number') limits[name] = step.data[name];
        return near(scene, step, limits[limited[step.data.action] ?? '']);
      }),
    ];
  },
};

function near(scene: Scene, step: StepEvent, limit: number | undefined): Omit<Risk, 'kind'>[] {
  const used = endOf(step) - step.at;
  const nearFrom = thresholdsOf(scene).nearLimit;
  if (!limit || step.data.error || used < Math.max(leastMs, nearFrom * limit)) return [];
  const id = step.id.replace(/^i:/, '');
  const own = scene.steps.find((one) => one.id === id) ?? step;
  const drawn = sketched(scene, own);
  const label = own.data.label;
  return [
    {
      key: drawn?.sig ?? label,
      step: label,
      ...(drawn ? sourceOf(scene, drawn) : {}),
      at: step.at,
      until: endOf(step),
      summary: `${said(label)} took ${duration(used)} of the ${duration(limit)} it is given`,
      change: `Give ${said(label)} more time, or find out why it takes so long`,
      strength: Math.min(1, 0.4 + 2 * (used / limit - nearFrom)),
      evidence: [own.id],
    },
  ];
}
