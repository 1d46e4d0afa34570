import { lineOf, sketched } from '../clues/scene.ts';
import { foundStep } from '../clues/stale-steps.ts';
import { endOf } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import { nearestTo, sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** Found and used at once, nothing comes in between but by the worst of luck, ms. */
const heldFromMs = 60;

/**
 * An element was found some time before it was used, and the page draws that place anew: this time not in between.
 */
export const heldAcrossRedraw: RiskFinder = {
  kind: 'held-across-redraw',
  about: 'An element was held for a while in a place that the page draws anew.',
  find: (scene) => {
    const out = new Map<string, Omit<Risk, 'kind'>>();
    for (const step of scene.steps) {
      const { action, error, label } = step.data;
      if (error || !['press', 'type', 'clear', 'read'].includes(action) || scene.insideWait.has(step.id)) continue;
      const found = foundStep(scene, step);
      const line = found && lineOf(scene, step);
      if (!found || !line) continue;
      const held = step.at - endOf(found);
      const redrawn = line.segments.filter(({ kind, from }) => kind === 'replaced' && from > 0);
      const between = scene.steps.some(
        (one) =>
          one.at > found.at && one.at < step.at && one.data.action !== 'find' && one.data.element !== step.data.element,
      );
      const drawn = sketched(scene, step);
      if (!drawn || held < heldFromMs || redrawn.length === 0 || out.has(drawn.sig)) continue;
      const nearest = nearestTo(redrawn, step.at);
      out.set(drawn.sig, {
        key: drawn.sig,
        step: label,
        ...sourceOf(scene, drawn),
        at: endOf(found),
        until: step.at,
        summary: `The element of ${said(label)} was found ${duration(held)} before; the page drew that place anew ${redrawn.length === 1 ? 'once' : `${redrawn.length} times`}, nearest ${duration(Math.abs(nearest.from - step.at))} ${nearest.from < step.at ? 'before' : 'after'}`,
        change: `Find the element anew right before ${said(label)}`,
        strength: Math.min(1, (between ? 0.6 : 0.4) + 0.4 * Math.exp(-Math.abs(nearest.from - step.at) / 1000)),
        evidence: [step.id, nearest.event, found.id],
      });
    }
    return [...out.values()];
  },
};
