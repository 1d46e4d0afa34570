import { cameFrom, requestKey } from '../contrast/sketch.ts';
import { arrivedAt, endOf, type Locator, type NetworkEvent } from '../evidence/event.ts';
import { duration, quote, said } from '../evidence/labels.ts';
import { locatorText } from '../evidence/locator.ts';
import type { Share } from '../ordinary/ordinary.ts';
import { feeding, uponAct } from './relevance.ts';
import { acting, failingStep, gaveUpAt, type Scene } from './scene.ts';

/** What the page asks for within this of an act was asked for by it, ms. */
const askedWithinMs = 600;
/** Longer chains say no more. */
const mostSources = 3;

/** What a failing step waits for: a link of the chain from its target back to where that comes from. */
export interface Source {
  /** An answer that the target is made of, or an act of the test upon which it comes. */
  kind: 'answer' | 'act';
  /** `GET /api/fare`, or the act's words. */
  key: string;
  /** In how many passing attempts the target came to be what it was right after it. */
  fed: Share;
  /** How that answer or act fared in this attempt, in words. */
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
  const answers = answersOf(scene, end);
  return answers.length ? answers : actOf(scene);
}

/** The act upon which the target comes, where no answer is between them. */
function actOf(scene: Scene): Source[] {
  const upon = uponAct(scene);
  if (!upon) return [];
  const act = scene.sketch.steps.findLast(({ sig }) => sig === upon.sig);
  const known = { kind: 'act' as const, key: said(upon.label), fed: upon.share };
  if (!act) return [{ ...known, here: 'was not done here' }];
  const here = act.error ? 'failed here' : `was done here, ended at ${duration(act.until)}`;
  return [{ ...known, here, event: act.events[0]!, at: act.at }];
}

function answersOf(scene: Scene, end: number): Source[] {
  return feeding(scene)
    .slice(0, mostSources)
    .map(({ key, share }): Source => {
      const request = scene.network.findLast((one) => requestKey(one) === key && one.at <= end);
      if (!request) return { kind: 'answer', key, fed: share, here: 'was not asked for here' };
      const asked = askedBy(scene, request);
      return {
        kind: 'answer',
        key,
        fed: share,
        here: fared(request, end),
        event: request.id,
        at: request.at,
        ...(asked ? { asked } : {}),
      };
    });
}

/** What a failing step's target depends on, as programs are told it. */
export interface Relevance {
  /** The target as its locator has it; null where the failure names none. */
  target: string | null;
  sources: { kind: Source['kind']; summary: string; attempts: [hits: number, of: number] }[];
}

export function relevanceTold(sources: readonly Source[], locator?: Locator): Relevance {
  const target = locator ? quote(locatorText(locator)) : 'what was looked for';
  return {
    target: locator ? locatorText(locator) : null,
    sources: sources.map(({ kind, key, fed, here, asked }) => ({
      kind,
      summary: `${target} came to be what it was right after ${key}, which ${here}${asked ? `; asked for by ${asked}` : ''}`,
      attempts: [fed.hits, fed.of],
    })),
  };
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
