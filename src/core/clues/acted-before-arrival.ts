import { arrivedAt, unanswered, type NetworkEvent, type StepEvent } from '../evidence/event.ts';
import { pathOf, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, type Lifeline, type LifelineSegment } from '../evidence/lifelines.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { Ordinary, Share } from '../ordinary/ordinary.ts';
import type { Clue, ClueKind } from './clue.ts';
import { asksForTyped, carries, startedBefore } from './asked-for-typed.ts';
import { isOrnament } from './relevance.ts';
import { beyondJitter, pulse, weighed } from './usualness.ts';
import { lineOf, type Scene } from './scene.ts';

/** See `replaced-after-response`: the page's own rendering of an answer. */
const renderWithinMs = 150;
/** So far apart the page's clock and the browser's stamp of an answer may tell the same moment. */
const clocksApartMs = 15;

/**
 * The test pressed or typed into something while a request was under way that the page had made to
 * fill that very thing: the answer changed the target, or would have, had it come in time.
 */
export const actedBeforeArrival: ClueKind = {
  code: 'acted-before-arrival',
  about: 'The target was used while the response that fills it was still under way.',
  find: (evidence) =>
    evidence.steps
      .filter((step) => step.data.action === 'press' || step.data.action === 'type')
      .flatMap((step) => {
        const line = lineOf(evidence, step);
        return line ? clueFor(evidence, step, line) : [];
      }),
};

function clueFor(evidence: Scene, step: StepEvent, line: Lifeline): Omit<Clue, 'code'>[] {
  // A command that was refused did nothing to the page; a command still running when the answer came may have used either state.
  if (step.data.error) return [];
  for (const request of underWayAt(evidence, step)) {
    const change = line.segments.find(
      (s) =>
        changesTarget(s) &&
        !leftWithIt(evidence, step, s) &&
        s.from >= arrivedAt(request) - clocksApartMs &&
        s.from - arrivedAt(request) <= renderWithinMs,
    );
    if (!change) continue;
    const path = shorten(pathOf(request.data.url), 32);
    const late = Math.round(arrivedAt(request) - step.at);
    const target = targetName(step.data, nameAt(line, step.at));
    const { strength, words } = weighed(evidence, 0.95 * beyondJitter(late), allTheTime(evidence, step, request));
    return [
      {
        at: step.at,
        until: change.from,
        summary: `${target} was used ${late} ms before ${path} answered and changed it${words}`,
        strength,
        evidence: [step.id, request.id, change.event],
      },
    ];
  }
  return unansweredClue(evidence, step, line);
}

/**
 * The recording ended before the answer came: what it would have changed was not seen, so this says
 * less. It says more when the target stood there, unchanged, since before the question was asked.
 */
function unansweredClue(evidence: Scene, step: StepEvent, line: Lifeline): Omit<Clue, 'code'>[] {
  const before = evidence.steps.findLast(
    (other) => other.at < step.at && (other.data.action === 'type' || other.data.action === 'press'),
  );
  const request =
    before && underWayAt(evidence, step).find((r) => r.data.failed === unanswered && r.data.own && r.at >= before.at);
  if (!request) return [];
  const early = Math.round(request.at - step.at);
  const path = shorten(pathOf(request.data.url), 32);
  const { strength, words } = weighed(evidence, 1, allTheTime(evidence, step, request));
  const asked = line.segments.filter((s) => s.from > before.at && s.from <= step.at && changesTarget(s));
  return [
    {
      at: step.at,
      until: arrivedAt(request),
      summary: `${targetName(step.data, nameAt(line, step.at))} was used ${early > 0 ? `${early} ms before the page asked for ${path}, for what was typed right before` : `while ${path}, asked for by the step before, was still under way`}${words}`,
      strength: (asked.length === 0 ? 0.8 : 0.6) * strength,
      evidence: [step.id, request.id, before.id],
    },
  ];
}

/** Requests that were under way, and those that the page was about to make: it waits for a moment until nothing more is typed. */
function underWayAt(evidence: Scene, step: StepEvent): NetworkEvent[] {
  const asks = asksForTyped(evidence, step);
  return evidence.network.filter(
    (r) =>
      r.data.type !== 'document' &&
      !isOrnament(r.data.type) &&
      (r.at < step.at || asks(r)) &&
      arrivedAt(r) > step.at &&
      step.at - r.at < startedBefore,
  );
}

/**
 * How often the page asks that all the time. A page that asks anew for every key asks but once for all that was typed, and
 * that is what was waited for.
 */
function allTheTime(evidence: Scene, step: StepEvent, request: NetworkEvent): (of: Ordinary, except: string) => Share {
  const typed = evidence.steps.findLast((one) => one.at < step.at && one.data.action === 'type');
  const once =
    typed !== undefined &&
    carries(request, typed) &&
    evidence.network.filter(({ data }) => data.url === request.data.url).length < pulse;
  return (ordinary, except) => {
    const again = ordinary.askedAgain(requestKey(request), pulse, except);
    return once ? { ...again, hits: 0 } : again;
  };
}

/** It went with the view that the step itself left: that is what was wanted, whatever else came then. */
const leftWithIt = ({ page }: Scene, step: StepEvent, segment: LifelineSegment): boolean =>
  segment.kind === 'removed' &&
  page.some(
    ({ kind, at }) =>
      (kind === 'fragment' || kind === 'navigation-started' || kind === 'navigation-committed') &&
      at >= step.at &&
      at <= segment.from + 60,
  );

/** Other node, other text, gone: not merely moved or recoloured. */
function changesTarget(segment: LifelineSegment): boolean {
  return (
    segment.kind === 'replaced' ||
    segment.kind === 'removed' ||
    segment.kind === 'appeared' ||
    segment.kind === 'changed'
  );
}
