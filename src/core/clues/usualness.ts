import { inOrdinary, mostTold, type Ordinary, type Share } from '../ordinary/ordinary.ts';
import { bearing, isFedBy, type Answer } from './relevance.ts';
import type { Scene } from './scene.ts';

/** What a page asks for so often in one attempt it asks for all the time: tests act meanwhile on any day. */
export const pulse = 3;

/** Log-odds that the plainest clue may be worth: what is seen on ordinary days too is worth so much less. */
const plainest = 5;
/** What a clue about the very answer that a step waits for is worth at least. */
const fedWorth = 0.85;

/**
 * How much a clue tells, for what it is made of is seen on ordinary days as well.
 * @param strength how plainly it is shown, 0…1
 * @param request whose answer it is about: what the failing step does without bears little on it
 * @param share asked of the ordinary of the workspace, the attempt itself left out; nothing where none is known
 */
export function weighed(
  scene: Scene,
  strength: number,
  share: (ordinary: Ordinary, except: string) => Share,
  request?: Answer,
): { strength: number; words: string } {
  const { worth: bears, words: why } = request ? bearing(scene, request) : { worth: 1, words: '' };
  if (!scene.ordinary) return { strength: strength * bears, words: why };
  const found = share(scene.ordinary, scene.sketch.id);
  const fed = request !== undefined && !request.again && bears === 1 && isFedBy(scene, request.key);
  // What the step is known to wait for need not be rare to be what it missed.
  const worth = Math.max(fed ? fedWorth : 0, Math.min(1, mostTold(found) / plainest));
  return {
    strength: Math.round(strength * worth * bears * 100) / 100,
    words: `${why}${found.hits > 0 ? `; so it was ${inOrdinary(found)}` : ''}`,
  };
}

/** How often an answer takes as long as the one of a kind did in this attempt. */
export function lateness(ordinary: Ordinary, { sketch }: Scene, key: string, except: string): Share {
  const ms = Math.max(0, ...sketch.requests.filter((one) => one.key === key).map(({ at, until }) => until - at));
  return ordinary.tookAsLong(key, ms, except);
}

/** By so much a page, a driver and their clocks vary among attempts that are alike, ms. */
const jitterMs = 120;

/** What something that came earlier or later by so much is worth: two things that end at about the same time change places by chance. */
export const beyondJitter = (ms: number): number => Math.min(1, Math.max(0.25, ms / jitterMs));
