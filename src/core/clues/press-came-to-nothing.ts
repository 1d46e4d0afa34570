import { requestKey } from '../contrast/sketch.ts';
import { arrivedAt, endOf, type NetworkEvent, type StepEvent } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { isOrnament } from './relevance.ts';
import { acting, gaveUpAt, leftPage, lineOf, timedOut, waitOf, type Scene } from './scene.ts';
import { beyondJitter, pulse, weighed } from './usualness.ts';

/** An answer that came later than this before the end of the wait may have been what it waited for, ms. */
const leastTime = 300;

/** What is asked for so often within one wait is asked for by the clock. */
const repeated = 2;

/**
 * The last press before the wait brought nothing at all: the page asked for nothing upon it, went nowhere and did not
 * change what was waited for. While it was made an answer was under way that the page then had, in time.
 */
export const pressCameToNothing: ClueKind = {
  code: 'press-came-to-nothing',
  about: 'The page did nothing upon the last press, which came while it was still waiting for an answer of its own.',
  find: (scene) => {
    const { failing } = scene;
    const end = gaveUpAt(scene);
    if (!failing || end === undefined || !timedOut(scene)) return [];
    const from = (waitOf(scene) ?? failing).at;
    const press = scene.steps.findLast((step) => acting(step) && step.at < from);
    if (press?.data.action !== 'press' || leftPage(scene, press.at, end)) return [];
    const asked = scene.network.filter(fetched);
    const before = new Set(asked.flatMap((one) => (one.at < press.at ? [requestKey(one)] : [])));
    const since = asked.flatMap((one) => (one.at >= press.at && one.at <= end ? [requestKey(one)] : []));
    const after = new Set(since);
    // What it goes on asking for it asks for anyway; what is new, and asked once, it asked for upon the press.
    const upon = since.some((key) => !before.has(key) && since.filter((one) => one === key).length < repeated);
    if (upon || changedSince(scene, failing, press)) return [];
    const answer = asked.findLast(
      (one) =>
        one.at < press.at &&
        arrivedAt(one) > endOf(press) &&
        arrivedAt(one) < end - leastTime &&
        (one.data.status ?? 0) < 400 &&
        one.data.failed === undefined &&
        !after.has(requestKey(one)),
    );
    if (!answer) return [];
    const key = requestKey(answer);
    const late = arrivedAt(answer) - press.at;
    const { strength, words } = weighed(scene, 0.95 * beyondJitter(late), (ordinary, id) =>
      ordinary.askedAgain(key, pulse, id),
    );
    return [
      {
        at: press.at,
        until: arrivedAt(answer),
        summary: `${said(press.data.label)} brought nothing; it came ${duration(late)} before ${key} answered${words}`,
        strength,
        evidence: [press.id, answer.id],
      },
    ];
  },
};

/** What pages ask their own service for by themselves. */
const fetched = ({ data }: NetworkEvent): boolean =>
  Boolean(data.own) && data.type !== 'document' && data.type !== 'script' && !isOrnament(data.type);

/** Another element, another text, there or gone: not merely moved. */
const telling = new Set(['appeared', 'changed', 'removed', 'replaced']);

/** Whether what was waited for changed in any way after the press. */
function changedSince(scene: Scene, failing: StepEvent, press: StepEvent): boolean {
  const line = lineOf(scene, failing);
  return line?.segments.some(({ from, kind }) => from > press.at && telling.has(kind)) ?? false;
}
