import { duration } from '../evidence/labels.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { NetworkEvent } from '../evidence/event.ts';
import type { ClueKind } from './clue.ts';
import { isOrnament } from './relevance.ts';
import { gaveUpAt, timedOut, waitOf } from './scene.ts';
import { weighed } from './usualness.ts';

/** Fewer questions than this are no asking again and again. */
const leastAsked = 3;
/** The last one this near to the end of the wait: the page had not given up. */
const nearEndMs = 700;

/** While the test waited, the page itself was asking its service again and again whether the work was done. */
export const pageKeptAsking: ClueKind = {
  code: 'page-kept-asking',
  about: 'The page was still asking its own service whether something was ready when the wait gave up.',
  find: (scene) => {
    const end = gaveUpAt(scene);
    if (!scene.failing || end === undefined || !timedOut(scene)) return [];
    const from = (waitOf(scene) ?? scene.failing).at - 1000;
    const groups = new Map<string, NetworkEvent[]>();
    for (const one of scene.network)
      if (
        one.data.own &&
        one.data.type !== 'document' &&
        !isOrnament(one.data.type) &&
        one.at >= from &&
        one.at <= end + 20
      )
        groups.set(requestKey(one), [...(groups.get(requestKey(one)) ?? []), one]);
    const asked = [...groups]
      .filter(([, list]) => list.length >= leastAsked && end - list.at(-1)!.at <= nearEndMs)
      .map(([key, list]) => ({
        key,
        list,
        ...weighed(scene, 0.9, (ordinary, id) => ordinary.askedAgain(key, leastAsked, id), { key, again: true }),
      }))
      // What a page asks all day long is asked beside what it waits for.
      .sort((a, b) => b.strength - a.strength)[0];
    if (!asked) return [];
    const { key, list, strength, words } = asked;
    return [
      {
        at: list.at(-1)!.at,
        summary: `The page had asked ${key} ${list.length} times in ${duration(end - list[0]!.at)} and was still asking when the wait gave up${words}`,
        strength,
        evidence: [scene.failing.id, list.at(-1)!.id, list[0]!.id],
      },
    ];
  },
};
