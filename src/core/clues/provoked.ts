import { requestKey } from '../contrast/sketch.ts';
import { shorten } from '../evidence/labels.ts';
import { matchesRequest } from '../trials/request-pattern.ts';
import { bearings, lonely, type Bearing } from '../trials/tells.ts';
import type { Clue, ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

const on: Record<Bearing, string> = {
  time: 'when something comes or is done',
  service: 'what the application’s own service answers',
  outside: 'hosts that are not the application’s own',
  machine: 'how much of the machine there is',
  size: 'the size of the window',
  clock: 'the clock, the zone or the language',
  data: 'the data that is typed or drawn',
  state: 'what was played before',
  answer: 'what is in an answer',
};

/** Trials brought the failure on demand by acting on one kind of thing. */
const provokedBy = (bearing: Bearing): ClueKind => ({
  code: `provoked-by-${bearing}`,
  about: `Trials bring the failure on demand by acting on ${on[bearing]}.`,
  find: (scene) => {
    const found = scene.trials?.provoked.find((one) => one.bearing === bearing);
    const at = found && momentOf(scene);
    if (!at) return [];
    const { words, failed, done, requests } = found;
    const exchanges = scene.network.filter((one) => requests.some((key) => matchesRequest(key, requestKey(one))));
    return [
      {
        ...at,
        evidence: [...at.evidence, ...exchanges.map(({ id }) => id)],
        summary: `Played while ${words}, ${failed} of ${done} trials fail this way`,
        strength: done ? failed / done : 1,
      },
    ];
  },
});

/** Trials acted on one kind of thing in every way that was known, and the failure never came. */
const unmovedBy = (bearing: Bearing): ClueKind => ({
  code: `unmoved-by-${bearing as (typeof lonely)[number]}`,
  about: `Trials acted on ${on[bearing]} and the failure did not come.`,
  find: (scene): Omit<Clue, 'code'>[] => {
    const found = scene.trials?.unmoved.find((one) => one.bearing === bearing);
    const at = found && momentOf(scene);
    if (!at) return [];
    // So many trials without it leave a rate of up to 1 − 0.05^(1/n).
    const strength = 0.05 ** (1 / found.done);
    return [{ ...at, summary: `In ${found.done} trials it did not come while ${shorten(found.words, 120)}`, strength }];
  },
});

export const provoked: readonly ClueKind[] = [...bearings.map(provokedBy), ...lonely.map(unmovedBy)];
