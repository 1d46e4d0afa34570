import type { MadeDrill } from '../drill/from-evidence.ts';
import type { Condition, DrillLocator, Statement, Target } from '../drill/drill.ts';

/** What is done to a drill at the step that went wrong, so that it no longer does. */
export type Change =
  /** `insteadOfPause`: the pause right before goes. */
  | { do: 'put before'; statements: readonly Statement[]; insteadOfPause?: boolean }
  | { do: 'put after'; statements: readonly Statement[] }
  /** Looks the element up right when it is used, once the statements put before have been done. */
  | { do: 'find anew'; statements: readonly Statement[] }
  /** `of`: the page that the step goes to took longer to load than the session allows. */
  | { do: 'wait longer'; limitMs: number; of?: 'page load' }
  /** What was looked at once is looked at until it is so. */
  | { do: 'look again'; limitMs: number }
  | { do: 'locate by'; locator: DrillLocator }
  | { do: 'type instead'; text: string }
  | { do: 'size'; width: number; height: number };

export interface DrillChange {
  /** Ids of the events of the step that it goes to, the telling one first. */
  at: readonly string[];
  change: Change;
  /** What the change alone comes to, where the advice says more. */
  words?: string;
}

/** How often a wait that a remedy brings looks, and how long at most, ms. */
export const remedyWait = { everyMs: 50, limitMs: 10_000 } as const;

export const waitUntil = (until: Condition, limitMs: number = remedyWait.limitMs): Statement => ({
  do: 'wait',
  until,
  limitMs,
  everyMs: remedyWait.everyMs,
});

/**
 * A drill's statements with a change made.
 * @returns nothing where the drill has no line for the step, or the change would change nothing
 */
export function changed({ drill, origins }: MadeDrill, { at, change }: DrillChange): Statement[] | undefined {
  const statements = drill.lines.map(({ line: _, ...statement }): Statement => statement as Statement);
  if (change.do === 'size') return sized(statements, change);
  const from = (ids: readonly string[]): number =>
    statements.findIndex((one, i) => one.do !== 'pause' && ids.some((id) => origins[i]!.includes(id)));
  const place = [at.slice(0, 1), at.slice(1)].map(from).find((i) => i >= 0);
  if (place === undefined) return undefined;
  const own = statements[place]!;
  const put = (...list: readonly Statement[]): Statement[] => statements.toSpliced(place, 1, ...list);
  switch (change.do) {
    case 'put before': {
      const from = firstOfWhatIsUsed(statements, place);
      const gone = new Set([
        halfDone(statements, from, change.statements),
        change.insteadOfPause === true ? pauseBefore(statements, from) : undefined,
      ]);
      return statements.toSpliced(from, 0, ...change.statements).filter((one) => !gone.has(one));
    }
    case 'put after':
      return put(own, ...change.statements);
    case 'find anew':
      return foundAnew(statements, place, change.statements);
    case 'wait longer': {
      if (change.of) return loadedLonger(statements, place, change.limitMs);
      if (own.do === 'wait') return own.limitMs < change.limitMs ? put({ ...own, limitMs: change.limitMs }) : undefined;
      if (own.do === 'script') return put({ do: 'limit', of: 'script', ms: change.limitMs }, own);
      const target = targetIn(own);
      return target && put(waitUntil({ kind: 'there', target }, change.limitMs), own);
    }
    case 'look again':
      // A read that is only remembered, and one that can never fail, have nothing to look for.
      return own.do === 'check' ? put(waitUntil(own.that, change.limitMs), own) : undefined;
    case 'locate by':
      return relocated(statements, own, change.locator);
    case 'type instead':
      return own.do === 'type' ? put({ ...own, text: change.text }) : undefined;
  }
}

/**
 * Where what a step uses is looked for: a place that was measured right before must be measured once all is in order.
 */
function firstOfWhatIsUsed(statements: readonly Statement[], place: number): number {
  const used = new Set(namesIn(statements[place]!));
  let from = place;
  for (let i = place - 1; i >= 0; i--) {
    const one = statements[i]!;
    if (!('name' in one) || !/^(?:remember|find)/.test(one.do)) {
      if (!idle.has(one.do)) break;
      continue;
    }
    if (one.name === undefined || !used.has(one.name)) continue;
    if (one.do !== 'find') from = i;
    for (const name of namesIn(one)) used.add(name);
  }
  return from;
}
/** Statements that do nothing to a page. */
const idle: ReadonlySet<Statement['do']> = new Set(['wait', 'pause', 'check', 'read', 'screenshot', 'group', 'note']);

/** The names of earlier lines that a statement speaks of. */
function namesIn(statement: Statement): string[] {
  const out: string[] = [];
  const walk = (value: unknown): void => {
    if (typeof value !== 'object' || value === null) return;
    if ('name' in value && typeof value.name === 'string') out.push(value.name);
    for (const one of Object.values(value)) walk(one);
  };
  for (const [key, value] of Object.entries(statement)) if (key !== 'name') walk(value);
  return out;
}

/** What was done right before a place only where something was so, and is now done there in any case. */
const halfDone = (statements: readonly Statement[], place: number, more: readonly Statement[]): Statement | undefined =>
  statements
    .slice(Math.max(0, place - nearMost), place)
    .findLast((one) => one.do === 'when' && more.some((other) => JSON.stringify(other) === JSON.stringify(one.then)));
/** So many lines before a step belong to it. */
const nearMost = 4;

/** The pause before a place, where nothing but waits lies between. */
function pauseBefore(statements: readonly Statement[], place: number): Statement | undefined {
  const last = statements.slice(0, place).findLast((one) => one.do !== 'wait');
  return last?.do === 'pause' ? last : undefined;
}

/** The limit of page loads that holds at a place, raised; where none is set, one is. */
function loadedLonger(statements: Statement[], place: number, ms: number): Statement[] | undefined {
  const at = statements.findLastIndex((one, i) => i < place && one.do === 'limit' && one.of === 'page load');
  const before = statements[at];
  const raised: Statement = { do: 'limit', of: 'page load', ms };
  if (before?.do !== 'limit') return statements.toSpliced(place, 0, raised);
  return before.ms < ms ? statements.toSpliced(at, 1, raised) : undefined;
}

function sized(statements: Statement[], { width, height }: { width: number; height: number }): Statement[] {
  const first = statements.findIndex((one) => one.do === 'window');
  return statements.toSpliced(Math.max(0, first), first < 0 ? 0 : 1, { do: 'window', width, height });
}

/** Every use of what was held is looked up right then; the find stays, as the test may want it there. */
function foundAnew(statements: Statement[], place: number, before: readonly Statement[]): Statement[] | undefined {
  const used = targetIn(statements[place]!);
  if (!used) return undefined;
  const out = [...statements];
  if ('name' in used) {
    const find = statements.find((one) => one.do === 'find' && one.name === used.name);
    if (find?.do !== 'find') return undefined;
    const { locator } = find;
    for (const [i, one] of out.entries())
      if (one.do !== 'find')
        out[i] = replaced(one, (target) => ('name' in target && target.name === used.name ? { locator } : undefined));
  } else if (before.length === 0) return undefined;
  return out.toSpliced(place, 0, ...before);
}

/** Wherever the drill locates what the step used, it does so by another locator. */
function relocated(statements: Statement[], own: Statement, locator: DrillLocator): Statement[] | undefined {
  const used = targetIn(own);
  const held = used && 'name' in used && statements.find((one) => one.do === 'find' && one.name === used.name);
  const before = held && held.do === 'find' ? held.locator : used && 'locator' in used ? used.locator : undefined;
  if (!before) return undefined;
  const same = (one: DrillLocator): boolean => JSON.stringify(one) === JSON.stringify(before);
  return statements.map((one) =>
    one.do === 'find' && same(one.locator)
      ? { ...one, locator }
      : replaced(one, (target) => ('locator' in target && same(target.locator) ? { locator } : undefined)),
  );
}

const isTarget = (value: object): value is Target =>
  Object.keys(value).length === 1 &&
  (('name' in value && typeof value.name === 'string') || ('locator' in value && typeof value.locator === 'object'));

/** The first element that a statement speaks of; of a find, what it looks for. */
function targetIn(statement: Statement): Target | undefined {
  if (statement.do === 'find') return { locator: statement.locator };
  let found: Target | undefined;
  replaced(statement, (target) => {
    found ??= target;
    return undefined;
  });
  return found;
}

/** A statement with its targets replaced, wherever they stand in it; what is left is the same. */
function replaced(statement: Statement, by: (target: Target) => Target | undefined): Statement {
  const walk = (value: unknown): unknown => {
    if (typeof value !== 'object' || value === null) return value;
    if (Array.isArray(value)) return value.map(walk);
    if (isTarget(value)) {
      const other = by(value);
      if (other) return other;
    }
    return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, walk(one)]));
  };
  return walk(statement) as Statement;
}
