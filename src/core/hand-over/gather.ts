import { causeNames } from '../causes/cause.ts';
import type { Suspect } from '../causes/score.ts';
import type { ContrastView } from '../contrast/view.ts';
import { circumstanceRows } from '../evidence/circumstance-rows.ts';
import {
  endOf,
  eventsOf,
  unanswered,
  type Box,
  type EvidenceEvent,
  type ScreenEvent,
  type StepEvent,
} from '../evidence/event.ts';
import { shorten } from '../evidence/labels.ts';
import { locatorKey } from '../evidence/locator.ts';
import { pictureAtFailure } from '../evidence/picture-at-failure.ts';
import type { Failure } from '../failures/failure.ts';
import type { Pinned } from '../families/hypotheses.ts';
import type { Verdict } from '../families/verdict.ts';
import type { Attempt } from '../records.ts';
import type { Advice } from '../remedies/advice.ts';
import type { Shown } from '../trials/shown.ts';
import type { HandOver, HandedRequest, HandedStep, HandedSuspect } from './hand-over.ts';
import { moment as momentWords } from './words.ts';

/** What a hand-over is made of, as the store and the other threads have it. */
export interface Grounds {
  attempt: Attempt;
  run: { name: string; commit: string | null; branch: string | null };
  events: readonly EvidenceEvent[];
  suspects: readonly Suspect[];
  verdict: Verdict | undefined;
  contrast: ContrastView | null;
  advice: readonly Pick<Advice, 'text' | 'because'>[];
  shown: Shown | undefined;
  proofs: readonly { remedy: string; words: string }[];
  /** The bench of the attempt. */
  link: string;
  now: number;
  version: string;
}

const most = { steps: 60, after: 3, parted: 8, suspects: 4, reasons: 6, console: 40, requests: 12, advice: 5 } as const;
const longest = { message: 4000, text: 1200, answer: 1500 } as const;
/** Under this a suspect is not worth a reader's time. */
const leastLikely = 0.03;

/** What is told of one attempt; its pictures are chosen elsewhere. */
export function handOverOf(from: Grounds): HandOver {
  const { attempt, run, events, contrast, verdict, link } = from;
  const { failure } = attempt;
  const { steps, before: stepsBefore } = stepsTold(eventsOf(events, 'step'), failure?.step, failure?.at);
  const { lines, before: consoleBefore } = consoleTold(events);
  return {
    sentence:
      failure?.sentence ?? (attempt.message.split('\n')[0]?.trim() || `${attempt.test.title}: ${attempt.outcome}`),
    test: { suite: attempt.test.suite, title: attempt.test.title, number: attempt.number },
    outcome: attempt.outcome,
    startedAt: attempt.startedAt,
    durationMs: attempt.durationMs,
    run: { name: run.name, commit: run.commit, branch: run.branch },
    environment: attempt.environment.key,
    link,
    failure: {
      ...(failure?.at === undefined ? {} : { at: failure.at }),
      ...(failure?.expected === undefined ? {} : { expected: failure.expected }),
      ...(failure?.actual === undefined ? {} : { actual: failure.actual }),
      ...(failure?.ownFrame ? { line: `${failure.ownFrame.file}:${failure.ownFrame.line}` } : {}),
      message: cut(attempt.message, longest.message),
    },
    verdict: {
      confirmed: verdict?.confirmed ? causeNames[verdict.confirmed].toLowerCase() : (verdict?.ownCause ?? null),
      cleared: (verdict?.cleared ?? []).map(({ cause, reason }) => ({ cause: causeNames[cause], reason })),
      note: verdict?.note ?? '',
    },
    pictures: [],
    steps,
    stepsBefore,
    parted: (contrast?.differences ?? [])
      .filter(({ strong }) => strong)
      .slice(0, most.parted)
      .map(({ summary, failing, passing }) => ({ summary, failing, passing })),
    suspects: suspectsTold(from),
    own: (verdict?.hypotheses ?? []).map(({ text, state, reason, for: speaking, against }) => ({
      text,
      state: reason ? `${state}: ${reason}` : state,
      for: speaking.map(pinnedWords),
      against: against.map(pinnedWords),
    })),
    moments: (verdict?.moments ?? []).map(({ text, attempt: where, moment }) => ({
      words: text,
      ...(moment === undefined ? {} : { at: moment }),
      // Of another attempt than this one.
      ...(where === undefined || where === attempt.id ? {} : { link: link.replace(attempt.id, where) }),
    })),
    undetermined: attempt.undetermined,
    console: lines,
    consoleBefore,
    requests: requestsTold(events),
    circumstances: circumstanceRows(events, attempt.environment, attempt.startedAt),
    trials: trialsTold(from.shown),
    proofs: from.proofs.map(({ remedy, words }) => `${remedy}: ${words}.`),
    advice: from.advice.slice(0, most.advice).map(({ text, because }) => ({ text, because })),
    written: { at: from.now, version: from.version },
  };
}

const pinnedWords = ({ text, what, moment, series }: Pinned): string =>
  [
    [text, what].filter(Boolean).join(': ') || (series ? 'trials' : 'what was seen'),
    moment === undefined ? '' : `at ${momentWords(moment)}`,
  ]
    .filter(Boolean)
    .join(', ');

/** Where the target of the failing step stood, in the window, as it failed. */
export function targetAt(events: readonly EvidenceEvent[], { locator, at }: Partial<Failure>): Box | undefined {
  if (!locator || at === undefined) return undefined;
  const key = locatorKey(locator);
  const state = eventsOf(events, 'element').findLast((one) => one.data.locator === key && one.at <= at)?.data.state;
  if (!state?.box || !state.visible || state.offset === null) return undefined;
  const { x = 0, y = 0 } = state.offset ?? {};
  return { ...state.box, x: state.box.x + x, y: state.box.y + y };
}

/** A picture that is handed over. */
export interface ChosenPicture {
  event: ScreenEvent;
  words: string;
  /** Of a video: at which time on its own clock, ms. */
  filmMs?: number;
}

/** Which pictures are handed over: the screen as it failed, the one before it, and what a passing attempt showed there. */
export function picturesOf(events: readonly EvidenceEvent[], failedAt?: number): ChosenPicture[] {
  const failed = pictureAtFailure(events);
  if (!failed) return filmedAt(events, failedAt);
  const all = eventsOf(events, 'screen').filter(({ kind, data }) => kind !== 'video' && !data.part);
  const before = all.findLast(({ at, data }) => at < failed.at && data.blob !== failed.data.blob);
  return [
    { event: failed, words: 'The screen when it failed' },
    ...(before ? [{ event: before, words: 'The screen before that' }] : []),
  ];
}

/** Where only a video shows it: the last one that had begun by then, at its moment. */
function filmedAt(events: readonly EvidenceEvent[], failedAt?: number): ChosenPicture[] {
  const videos = eventsOf(events, 'screen').filter(({ kind }) => kind === 'video');
  const event = videos.findLast(({ at }) => failedAt === undefined || at <= failedAt) ?? videos[0];
  if (!event) return [];
  const { durationMs } = event.data;
  if (failedAt === undefined) {
    const words = durationMs === undefined ? 'The beginning of the video' : 'The end of the video';
    return [{ event, words, filmMs: durationMs ?? 0 }];
  }
  const filmMs = Math.min(durationMs ?? Infinity, Math.max(0, failedAt - event.at));
  const words = 'What the video shows when it failed';
  return [{ event, words, filmMs }];
}

/** Where the passing attempt that stands for the others was at the step that failed. */
export function passingAt(
  contrast: ContrastView | null,
  step: string | undefined,
): { id: string; at: number } | undefined {
  const slot = step === undefined ? undefined : contrast?.slots.find(({ left }) => left?.event === step);
  return contrast?.right && slot?.right ? { id: contrast.right.id, at: slot.right.until } : undefined;
}

/** Finding what is then used goes without saying; the test's own steps up to the failure do not. */
function stepsTold(
  all: readonly StepEvent[],
  failing: string | undefined,
  at: number | undefined,
): { steps: HandedStep[]; before: number } {
  const told = all.filter(({ id, data }) => data.action !== 'find' || data.error !== undefined || id === failing);
  const last = told.findLastIndex(
    ({ id, data, at: when }) => id === failing || (failing === undefined && data.error && when <= (at ?? Infinity)),
  );
  const until = last < 0 ? told.length : last + 1 + most.after;
  const from = Math.max(0, Math.min(until, told.length) - most.steps);
  return {
    before: from,
    steps: folded(told.slice(from, until)).map(({ step, times, until: end }) => {
      const note = [times > 1 ? `${times} times` : undefined, noteOf(step)].filter(Boolean).join('; ');
      return {
        at: step.at,
        ms: end - step.at,
        label: step.data.label,
        failed:
          step.id === failing || step.data.ok === false || (failing === undefined && step.data.error !== undefined),
        ...(note ? { note } : {}),
      };
    }),
  };
}

/** The same done again and again is told once. */
function folded(steps: readonly StepEvent[]): { step: StepEvent; times: number; until: number }[] {
  const out: { step: StepEvent; times: number; until: number }[] = [];
  for (const step of steps) {
    const last = out.at(-1);
    const again = last && last.step.data.label === step.data.label && !last.step.data.error && !step.data.error;
    if (again) Object.assign(last, { times: last.times + 1, until: endOf(step) });
    else out.push({ step, times: 1, until: endOf(step) });
  }
  return out;
}

function noteOf({ data }: StepEvent): string | undefined {
  if (data.ok === false) return `expected ${shorten(data.expected ?? '', 200)}, was ${shorten(data.actual ?? '', 200)}`;
  if (data.error) return shorten((data.error.message || data.error.code).split(/\n|\(Session info/)[0]!, 300);
  return data.polls ? `looked ${data.polls} times` : undefined;
}

function consoleTold(events: readonly EvidenceEvent[]): { lines: HandOver['console']; before: number } {
  const all = eventsOf(events, 'console').filter(({ data }) => data.level === 'error' || data.level === 'warning');
  const told = all.slice(-most.console);
  return {
    before: all.length - told.length,
    lines: told.map(({ at, data }) => ({ at, level: data.level, text: cut(data.text, longest.text) })),
  };
}

function requestsTold(events: readonly EvidenceEvent[]): HandedRequest[] {
  const answers = new Map(
    eventsOf(events, 'body').flatMap(({ data }) =>
      data.of === 'response' ? [[data.exchange, data.text] as const] : [],
    ),
  );
  return eventsOf(events, 'network')
    .filter(({ data }) => (data.failed !== undefined && data.failed !== unanswered) || (data.status ?? 0) >= 400)
    .sort((a, b) => Number(b.data.own) - Number(a.data.own) || a.at - b.at)
    .slice(0, most.requests)
    .map((request) => {
      const answer = answers.get(request.id);
      return {
        at: request.at,
        ms: endOf(request) - request.at,
        method: request.data.method,
        url: request.data.url,
        ended: request.data.failed ?? String(request.data.status),
        ...(answer ? { answer: cut(answer, longest.answer) } : {}),
      };
    });
}

function suspectsTold({ suspects, verdict }: Grounds): HandedSuspect[] {
  const cleared = new Set(verdict?.cleared.map(({ cause }) => cause));
  const reasons = (clues: Suspect['for']): string[] => clues.slice(0, most.reasons).map(({ summary }) => summary);
  return suspects
    .filter(({ cause, probability, for: pro }) => !cleared.has(cause) && probability >= leastLikely && pro.length > 0)
    .slice(0, most.suspects)
    .map(({ cause, probability, for: pro, against }) => ({
      name: causeNames[cause],
      probability,
      for: reasons(pro),
      against: reasons(against),
    }));
}

const trialsTold = (shown: Shown | undefined): string[] =>
  shown
    ? [
        ...shown.provoked.map(({ words, failed, done }) => `It fails ${failed} of ${done} times when ${words}.`),
        ...shown.unmoved.map(({ words, done }) => `Tried without the failure, ${done} times: ${words}.`),
      ]
    : [];

const cut = (text: string, length: number): string =>
  text.length <= length ? text : `${text.slice(0, length)}\n… ${text.length - length} characters more`;
