import { requestKey } from '../contrast/sketch.ts';
import { arrivedAt } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep } from './case.ts';
import { momentAt } from './told.ts';

/** Three times the longest that was seen leaves room for what was not; a limit costs nothing while all is well. */
const room = 3;

/** Give the wait the time that the page was seen to need. */
export const longerLimit: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const { evidence } = subject;
  const used = step.until - step.at;
  const passing = sameStep(about, step, 'passing');
  const needed = passing.map((one) => one.step.until - one.step.at);
  const line = step.locator === undefined ? undefined : evidence.lifelines.get(step.locator);
  const came = line?.segments.find((one) => one.from > step.until && one.state.node !== null);
  const request = evidence.network
    .filter((one) => one.data.own && one.at < step.until && arrivedAt(one) > step.until - 10)
    .sort((a, b) => a.at - b.at)[0];
  const late = came?.from ?? (request && arrivedAt(request));
  const longest = Math.max(...needed, (late ?? step.until) - step.at);
  const limitMs = rounded(longest * room);
  const parts = [
    `The wait gave up after ${duration(used)}`,
    ...(came ? [`what it waited for came ${duration(came.from - step.until)} later`] : []),
    ...(request && !came
      ? [
          `${requestKey(request)} ${request.data.failed?.startsWith('still') ? 'had still not answered' : `answered ${duration(arrivedAt(request) - step.until)} later`}`,
        ]
      : []),
    ...(needed.length ? [`passing attempts needed ${range(needed)}`] : []),
  ];
  // The protocol calls it a timeout when a page did not load within the session's limit, and nothing else.
  const loads = step.error === 'timeout' && step.polls === undefined;
  return [
    {
      kind: 'limit',
      text: loads
        ? `Let a page take up to ${duration(limitMs)} to load at ${said(step.label)}`
        : `Let ${said(step.label)} wait up to ${duration(limitMs)}${request ? `, or first wait until ${requestKey(request)} has answered` : ''}`,
      because: parts.join('; '),
      passing: needed.length ? [needed.filter((ms) => ms <= longest * room).length, needed.length] : null,
      failing: null,
      shown: [
        shownStep(momentAt(subject, step)),
        ...(came ? [{ attempt: subject.id, event: came.event, at: came.from }] : []),
        ...(request ? [{ attempt: subject.id, event: request.id, at: request.at }] : []),
        ...passing.slice(0, 1).map(shownStep),
      ],
      change: {
        at: step.events,
        change: { do: 'wait longer', limitMs, ...(loads ? { of: 'page load' as const } : {}) },
      },
    },
  ];
};

/** On a machine that slows everything, limits have to grow with it. */
export const limitsByPace: Adviser = (about) => {
  const { subject, passing } = about;
  const pace = subject.sketch.pace;
  const paces = passing.flatMap(({ sketch }) => sketch.pace?.ms ?? []);
  if (!pace || paces.length === 0) return [];
  const usual = paces.reduce((a, b) => a + b, 0) / paces.length;
  const factor = pace.ms / Math.max(1, usual);
  if (factor < 1.3) return [];
  const first = subject.sketch.steps[0];
  return [
    {
      kind: 'limit',
      text: `Run fewer attempts at once on this machine, or make every limit ${factor.toFixed(factor < 3 ? 1 : 0)} times as long here`,
      because: `Plain finds and reads took ${pace.ms.toFixed(0)} ms against ${usual.toFixed(0)} ms ${inPassing([paces.length, paces.length])}; nothing else needs to change in the test`,
      passing: [paces.length, paces.length],
      failing: null,
      shown: first ? [shownStep(momentAt(subject, first))] : [],
    },
  ];
};

const range = (list: readonly number[]): string =>
  list.length === 1 ? duration(list[0]!) : `${duration(Math.min(...list))} to ${duration(Math.max(...list))}`;

/** A limit as a person would write it: whole tenths, then halves, then whole seconds. */
function rounded(ms: number): number {
  const grain = ms < 1000 ? 100 : ms < 5000 ? 500 : 1000;
  return Math.ceil(ms / grain) * grain;
}
