import type { CauseCode } from '../causes/cause.ts';
import { causeCodes } from '../causes/cause.ts';
import type { Suspect } from '../causes/score.ts';
import type { Clue } from '../clues/clue.ts';
import { sketchOf } from '../contrast/sketch.ts';
import type { Environment, Outcome } from '../evidence/attempt.ts';
import type { EvidenceEvent, StepEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { css, facts, page, step, url } from '../evidence/samples.ts';
import type { Advice } from './advice.ts';
import { advise } from './advise.ts';
import type { Told } from './told.ts';

/** Small attempts for unit tests of remedies. */

let count = 0;

export function told(
  events: readonly EvidenceEvent[],
  more: {
    outcome?: Outcome;
    message?: string;
    environment?: Partial<Environment>;
    commit?: string;
    startedAt?: number;
  } = {},
): Told {
  const id = `a${++count}`;
  const base = facts(more.outcome ?? 'passed', more.message ?? '');
  const evidence = prepare(events, { ...base, environment: { ...base.environment, ...more.environment } });
  const about = { id, startedAt: more.startedAt ?? 0, ...(more.commit ? { commit: more.commit } : {}) };
  return { id, evidence, sketch: sketchOf(evidence, about) };
}

export const failed = (events: readonly EvidenceEvent[], more: Parameters<typeof told>[1] = {}): Told =>
  told(events, { outcome: 'failed', ...more });

export const opened = (path = '/hold'): EvidenceEvent[] => [
  step(0, 20, { action: 'open', command: 'navigate to', input: `${url}${path}` }),
  page(10, 'navigation-committed', { address: `${url}${path}` }),
];

export const types = (at: number, input: string, locator = '#who'): StepEvent =>
  step(at, at + 8, { action: 'type', command: 'element send keys', locator: css(locator), input });

/** What is advised when one cause is suspected, by clues that speak of these events. */
export function advised(
  cause: CauseCode,
  subject: Told,
  passing: readonly Told[],
  {
    shows = [],
    failing = [],
    until,
    markup = () => undefined,
  }: {
    shows?: readonly { id: string; at: number }[];
    failing?: readonly Told[];
    until?: number;
    markup?: (blob: string) => string | undefined;
  } = {},
): Advice[] {
  const clue: Clue = {
    code: 'size-differs',
    at: shows[0]?.at ?? 0,
    ...(until === undefined ? {} : { until }),
    summary: 'a clue',
    strength: 1,
    evidence: shows.map(({ id }) => id),
  };
  const suspects: Suspect[] = causeCodes.map((code) => ({
    cause: code,
    probability: code === cause ? 0.9 : 0.1 / (causeCodes.length - 1),
    for: code === cause ? [clue] : [],
    against: [],
  }));
  suspects.sort((a, b) => b.probability - a.probability);
  return advise({ subject, suspects, failing, passing, markup });
}

export const words = (list: readonly Advice[]): string[] => list.map(({ text }) => text);
