import { cameFrom, requestKey } from '../contrast/sketch.ts';
import { arrivedAt, endOf, type NetworkEvent } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import type { Share } from '../ordinary/ordinary.ts';
import { feeding } from './relevance.ts';
import { acting, failingStep, gaveUpAt, type Scene } from './scene.ts';

/** What the page asks for within this of an act was asked for by it, ms. */
const askedWithinMs = 600;
/** Longer chains say no more. */
const mostSources = 3;

/** One answer that a failing step waits for: a link of the chain from its target back to where that comes from. */
export interface Source {
  /** `GET /api/fare`. */
  key: string;
  /** In how many passing attempts the target came to be what it was right after this answer. */
  fed: Share;
  /** How that answer fared in this attempt, in words. */
  here: string;
  /** What asked for it: a step of the test, or a place in a script; absent where nobody told. */
  asked?: string;
  /** The exchange, where there was one, and when it began, ms. */
  event?: string;
  at?: number;
}

/** What the failing step waits for, as passing attempts show it: nearest first; empty where too few of them tell. */
export function waitsFor(scene: Scene): Source[] {
  if (!failingStep(scene)) return [];
  const end = gaveUpAt(scene) ?? scene.until;
  return feeding(scene)
    .slice(0, mostSources)
    .map(({ key, share }) => {
      const request = scene.network.findLast((one) => requestKey(one) === key && one.at <= end);
      if (!request) return { key, fed: share, here: 'was not asked for here' };
      const asked = askedBy(scene, request);
      return {
        key,
        fed: share,
        here: fared(request, end),
        event: request.id,
        at: request.at,
        ...(asked ? { asked } : {}),
      };
    });
}

function fared(request: NetworkEvent, end: number): string {
  const { status, failed } = request.data;
  if (arrivedAt(request) > end) return `was still under way here after ${duration(end - request.at)}`;
  if (failed && !status) return `failed here: ${failed}`;
  return `answered ${status ?? ''} here after ${duration(arrivedAt(request) - request.at)}`.replace('  ', ' ');
}

function askedBy({ steps }: Scene, request: NetworkEvent): string | undefined {
  const act = steps.findLast(
    (step) =>
      (acting(step) || step.data.action === 'open') &&
      step.at <= request.at &&
      request.at - endOf(step) <= askedWithinMs,
  );
  if (act) return said(act.data.label);
  return request.data.initiator ? cameFrom(request.data.initiator) : undefined;
}
