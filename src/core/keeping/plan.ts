import { isFailure, type Outcome } from '../evidence/attempt.ts';
import { isOver, levels, termOf, type Keeping, type KeepingTerm, type KeptAttempt, type Level } from './keeping.ts';

/** Of each test in each environment the newest passing attempts are what failing ones are held against: they go last. */
export const baselineKept = 3;

export type LetGoWhy = 'term' | 'one in' | 'budget';

/** What is let go of one attempt. */
export interface LetGo {
  attempt: string;
  to: Level;
  why: LetGoWhy;
  /** How it had ended when this was planned. */
  outcome: Outcome;
}

export interface KeepingPlan {
  /** In the order in which they are let go: by their terms first, then the least useful and the oldest first. */
  letGo: LetGo[];
  /** Bytes now, and after it. */
  before: number;
  after: number;
  /** How many bytes over its budget the folder stays, because all that is left has to be kept. */
  short: number;
  counts: { attempts: number; pictures: number; rest: number; pinned: number; failingInTerm: number };
}

/** More of all attempts at once than this go only when somebody said so; a handful always may. */
export const shareAtOnce = { of: 0.5, least: 50 };

/** Whether so much is to go that it may be a mistake, of a clock say. */
export const isSuspicious = (goes: number, of: number): boolean =>
  goes > shareAtOnce.least && goes > of * shareAtOnce.of;

/** What the database takes for a byte of an event's content: its columns, its row in the index, pages half full. */
const rowOverhead = 1.3;

interface State {
  one: KeptAttempt;
  term: KeepingTerm | undefined;
  level: Level;
  /** Place among the passing attempts of its test and environment, the oldest 0; and from the newest. */
  order: number;
  fromNewest: number;
}

/**
 * What is to be let go of.
 * @param sizeOf bytes of a file by its number @param total what the folder takes now, bytes @param now epoch ms
 */
export function planKeeping(
  { terms, budgetGb }: Keeping,
  attempts: readonly KeptAttempt[],
  sizeOf: (file: number) => number,
  total: number,
  now: number,
): KeepingPlan {
  const states = placed(attempts, terms);
  const users = usersOf(attempts);
  const letGo: LetGo[] = [];
  let size = total;
  const counts = { attempts: 0, pictures: 0, rest: 0, pinned: 0, failingInTerm: 0 };
  const touched = new Set<string>();
  const drop = (state: State, to: Level, why: LetGoWhy): void => {
    if (to >= state.level) return;
    const { one } = state;
    const release = (files: readonly number[]): void => {
      for (const file of files) {
        const left = users.get(file)! - 1;
        users.set(file, left);
        if (left === 0) size -= sizeOf(file);
      }
    };
    if (state.level === levels.whole) {
      release(one.pictures);
      if (one.pictures.length) counts.pictures++;
    }
    if (to === levels.findings) {
      release(one.others);
      size -= one.bytes * rowOverhead;
      counts.rest++;
    }
    state.level = to;
    touched.add(one.id);
    letGo.push({ attempt: one.id, to, why, outcome: one.outcome });
  };

  for (const state of states) byTerm(state, now, drop);

  const budget = budgetGb === null ? Infinity : budgetGb * 1e9;
  if (size > budget) {
    for (const { state, to } of leastUsefulFirst(states, now)) {
      if (size <= budget) break;
      drop(state, to, 'budget');
    }
  }
  for (const { one, term } of states) {
    if (one.pinned) counts.pinned++;
    else if (isFailure(one.outcome) && !one.trial && !isOver(term?.failing.rest ?? null, one.startedAt, now))
      counts.failingInTerm++;
  }
  counts.attempts = touched.size;
  return { letGo, before: total, after: Math.max(0, size), short: Math.max(0, size - budget), counts };
}

/** Each attempt with the term it falls under and its place among those like it, the oldest first. */
function placed(attempts: readonly KeptAttempt[], terms: readonly KeepingTerm[]): State[] {
  const known = new Map<string, KeepingTerm | undefined>();
  const termFor = ({ run, branch }: KeptAttempt): KeepingTerm | undefined => {
    const key = `${run}\n${branch}`;
    if (!known.has(key)) known.set(key, termOf(terms, run, branch));
    return known.get(key);
  };
  const states = [...attempts]
    .sort((a, b) => a.startedAt - b.startedAt || (a.id < b.id ? -1 : 1))
    .map((one): State => ({ one, term: termFor(one), level: one.level, order: 0, fromNewest: Infinity }));
  const counted = new Map<string, State[]>();
  for (const state of states) {
    if (state.one.outcome !== 'passed' || state.one.trial) continue;
    const list = counted.get(state.one.place);
    if (list) list.push(state);
    else counted.set(state.one.place, [state]);
  }
  for (const list of counted.values())
    list.forEach((state, i) => {
      state.order = i;
      state.fromNewest = list.length - 1 - i;
    });
  return states;
}

function usersOf(attempts: readonly KeptAttempt[]): Map<number, number> {
  const users = new Map<number, number>();
  for (const { level, pictures, others } of attempts) {
    if (level === levels.whole) for (const file of pictures) users.set(file, (users.get(file) ?? 0) + 1);
    if (level >= levels.noPictures) for (const file of others) users.set(file, (users.get(file) ?? 0) + 1);
  }
  return users;
}

function byTerm(state: State, now: number, drop: (state: State, to: Level, why: LetGoWhy) => void): void {
  const { one, term } = state;
  if (one.pinned || !term) return;
  const kept = isFailure(one.outcome) ? term.failing : term.passing;
  if (isOver(kept.rest, one.startedAt, now)) return drop(state, levels.findings, 'term');
  if (isOver(kept.pictures, one.startedAt, now)) return drop(state, levels.noPictures, 'term');
  const spare = one.outcome === 'passed' && !one.trial && state.fromNewest >= baselineKept;
  if (spare && state.order % term.passing.oneIn !== 0) drop(state, levels.noPictures, 'one in');
}

/** What may go for the budget: never what is pinned, nor what failed within its term. */
function leastUsefulFirst(states: readonly State[], now: number): { state: State; to: Level }[] {
  const rounds: { state: State; to: Level; round: number }[] = [];
  for (const state of states) {
    const { one, term } = state;
    if (one.pinned) continue;
    const failed = isFailure(one.outcome);
    if (failed && !one.trial && !isOver(term?.failing.rest ?? null, one.startedAt, now)) continue;
    // Trials can be played again; what passed and has newer ones like it says least; what failed says most.
    const first = one.trial ? 0 : failed ? 4 : state.fromNewest >= baselineKept ? 2 : 6;
    rounds.push({ state, to: levels.noPictures, round: first }, { state, to: levels.findings, round: first + 1 });
  }
  // The order within a round is that of the states: the oldest first.
  return rounds.sort((a, b) => a.round - b.round);
}
