import { isoOf } from '../formats/times.ts';
import { sizeOf } from '../contrast/circumstances.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { segmentAt } from '../evidence/lifelines.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep, type Case } from './case.ts';
import { momentAt } from './told.ts';

/** Pin the clock and the zone that the outcome hangs on. */
export const fixClock: Adviser = (about) => {
  const { subject, passing, step, clues } = about;
  const day = (at: number): string => isoOf(at).slice(0, 16).replace('T', ' ');
  const times = passing.map(({ sketch }) => sketch.startedAt).sort((a, b) => a - b);
  const shown = step ? [shownStep(momentAt(subject, step))] : [];
  return [
    {
      kind: 'place',
      text: 'Run the test with a clock and a zone of its own, or make what it expects from the same clock as the page',
      because: [
        ...(clues[0] ? [clues[0].summary] : []),
        `it failed on ${day(subject.sketch.startedAt)} UTC${times.length ? `, passing attempts ran ${times.length === 1 ? `on ${day(times[0]!)}` : `from ${day(times[0]!)} to ${day(times.at(-1)!)}`}` : ''}`,
      ].join('; '),
      passing: null,
      failing: null,
      shown,
    },
  ];
};

/** Run at the size that passes, or reach the target at this one. */
export const fitSize: Adviser = (about) => {
  const { subject, passing, step } = about;
  if (!step) return [];
  const here = sizeOf(subject.sketch);
  const sizes = passing.flatMap(({ sketch }) => sizeOf(sketch) ?? []);
  const others = [...new Set(sizes)].filter((size) => size !== here);
  const line = step.locator === undefined ? undefined : subject.evidence.lifelines.get(step.locator);
  const mine = momentAt(subject, step);
  const state = line && segmentAt(line, mine.at)?.state;
  const box = state?.box;
  const same = sameStep(about, step, 'passing');
  const visible = same.filter(({ step: one }) => one.presence === 'visible');
  const size = sizeFrom(others[0]);
  const how =
    state?.visible === false
      ? 'is hidden'
      : state?.inView === false
        ? 'lies outside of what is shown'
        : state?.node === null
          ? 'is not there'
          : 'stands elsewhere';
  return [
    {
      kind: 'place',
      text: others.length
        ? `Set the window to ${others[0]} for this test, or reach ${said(step.label)} at ${here} the way a person would: by what opens it, or by scrolling`
        : `Reach ${said(step.label)} at ${here ?? 'this size'} the way a person would: by what opens it, or by scrolling`,
      because: [
        `At ${here ?? 'this size'} its element ${how}${box ? ` (${Math.round(box.width)}×${Math.round(box.height)} at ${Math.round(box.x)}, ${Math.round(box.y)})` : ''}`,
        ...(visible.length
          ? [
              `it was visible ${inPassing([visible.length, same.length])}${others.length ? `, at ${others.join(' or ')}` : ''}`,
            ]
          : []),
      ].join('; '),
      ...(size ? { change: { at: step.events, change: { do: 'size', ...size } as const } } : {}),
      passing: same.length ? [visible.length, same.length] : null,
      failing: null,
      shown: [shownStep(mine), ...visible.slice(0, 1).map(shownStep)],
    },
  ];
};

function sizeFrom(words = ''): { width: number; height: number } | undefined {
  const [width, height] = words.split(/\D+/).map(Number);
  return width && height ? { width, height } : undefined;
}

/** What the engines do differently at the step. */
export const acrossEngines: Adviser = (about) => {
  const { subject, passing, step } = about;
  if (!step) return [];
  const own = subject.sketch.environment.browser;
  const others = passing.filter(({ sketch }) => sketch.environment.browser !== own);
  if (others.length === 0) return [];
  const same = sameStep(about, step, 'passing').filter(({ told }) => others.includes(told));
  const seen = differing(
    about,
    same.map((one) => one.step),
  );
  return [
    {
      kind: 'place',
      text: `Ask who owns the page whether ${quote(own)} is to be served; until then, let the test say that it is known to fail there`,
      because: [
        `Its passing attempts ran in ${[...new Set(others.map(({ sketch }) => sketch.environment.browser))].join(' and ')} (${others.length})`,
        ...(seen ? [seen] : []),
      ].join('; '),
      passing: [others.length, passing.length],
      failing: null,
      shown: [shownStep(momentAt(subject, step)), ...same.slice(0, 1).map(shownStep)],
    },
  ];
};

function differing({ step }: Case, others: readonly NonNullable<Case['step']>[]): string | undefined {
  const [other] = others;
  if (!step || !other) return undefined;
  if (step.presence !== other.presence && step.presence && other.presence)
    return `at ${said(step.label)} the element was ${step.presence} here and ${other.presence} there`;
  if (step.value !== other.value && step.value !== undefined && other.value !== undefined)
    return `${said(step.label)} gave ${quote(shorten(step.value, 32))} here and ${quote(shorten(other.value, 32))} there`;
  return undefined;
}
