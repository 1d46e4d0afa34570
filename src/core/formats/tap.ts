import { parse as parseYaml } from 'yaml';
import type { ReportedOutcome } from '../evidence/attempt.ts';
import { attachmentsIn, capped, mostMessage, mostOutput, Tries, type ReportCase, type Trouble } from './report.ts';

/**
 * Test Anything Protocol, versions 12 to 14: plan, test lines, SKIP and TODO, YAML diagnostics, comments
 * after a failure, subtests (indented, before or after the line that sums them up), `Bail out!`.
 */
export interface TapReport {
  cases: ReportCase[];
  problems: Trouble[];
}

const testLine = /^(not )?ok\b\s*(\d+)?\s*(?:-\s*)?(.*)$/;
const planLine = /^(\d+)\.\.(\d+)(?:\s*#\s*(.*))?$/;
const directive = /(?<!\\)#\s*(SKIP|TODO)\b\S*\s*(.*)$/i;
const timeNote =
  /(?:^|\s)#\s*(?:time|duration)[=:\s]+(\d+(?:\.\d+)?)\s*(ms|s|sec)?\b|\s+in\s+(\d+(?:\.\d+)?)\s*(ms|sec|s)\s*$/i;

interface Level {
  names: string[];
  planned?: number;
  seen: number;
  pending: { ok: boolean; case: ReportCase; todo: boolean } | undefined;
  comments: string[];
  /** A subtest's cases wait for the line that names it. */
  inner: ReportCase[];
  name: string | undefined;
}

const level = (name?: string): Level => ({ names: [], seen: 0, pending: undefined, comments: [], inner: [], name });

/**
 * @param text the whole report
 * @param suite name of the suite where the report does not name one: usually its file
 */
export function readTap(text: string, suite: string): TapReport {
  const problems: Trouble[] = [];
  const tries = new Tries();
  const levels: Level[] = [level()];
  const done: ReportCase[] = [];
  const lines = text.split(/\r?\n/);
  let subtest: string | undefined;
  let bailed = false;

  /** Writes the comments collected after a failed test into it, and puts it where it belongs. */
  const settle = (at: Level): void => {
    const { pending } = at;
    if (!pending) return;
    const { case: one } = pending;
    const told = at.comments.join('\n').trim();
    if (one.outcome === 'failed' && !one.message) one.message = capped(told, mostMessage);
    else if (told) one.output = capped([one.output, told].filter(Boolean).join('\n'), mostOutput);
    if (!one.durationMs) {
      const found = timeNote.exec(told);
      const value = found?.[1] ?? found?.[3];
      if (value) one.durationMs = Number(value) * ((found?.[2] ?? found?.[4])?.startsWith('s') ? 1000 : 1);
    }
    one.attachments = attachmentsIn(`${one.message}\n${one.output}`);
    (levels.indexOf(at) > 0 ? at.inner : done).push(one);
    at.pending = undefined;
    at.comments = [];
  };
  const closeTo = (depth: number): Level => {
    while (levels.length > depth + 1) {
      const inner = levels.pop()!;
      settle(inner);
      const outer = levels.at(-1)!;
      outer.inner.push(
        ...inner.inner.map((one) => ({ ...one, suite: inner.name ? `${inner.name}\n${one.suite}` : one.suite })),
      );
    }
    return levels.at(-1)!;
  };

  for (let i = 0; i < lines.length && !bailed; i++) {
    const raw = lines[i]!;
    const indent = /^ */.exec(raw)![0].length;
    const line = raw.trim();
    if (!line) continue;
    const depth = Math.min(Math.floor(indent / 4), 50);
    if (/^TAP version \d+$/.test(line)) continue;
    const heading = /^# Subtest(?::\s*(.*))?$/.exec(line);
    if (heading) {
      subtest = heading[1] ?? '';
      continue;
    }
    if (line.startsWith('---') && indent % 4 === 2) {
      const end = lines.findIndex((other, j) => j > i && other.trim() === '...' && other.search(/\S/) === indent);
      const stop = end < 0 ? lines.length : end;
      if (end < 0) problems.push({ line: i + 1, message: 'a YAML block is not closed with “...”' });
      diagnose(
        levels.at(-1)!.pending?.case,
        lines
          .slice(i + 1, stop)
          .map((one) => one.slice(indent))
          .join('\n'),
        () => problems.push({ line: i + 2, message: 'the YAML of this test could not be read; its text was kept' }),
      );
      i = stop;
      continue;
    }
    const isTest = testLine.exec(line);
    const isPlan = planLine.exec(line);
    if (isTest || isPlan) {
      if (depth > levels.length - 1) {
        while (levels.length - 1 < depth) {
          levels.push(level(subtest));
          subtest = undefined;
        }
      }
      const here = closeTo(depth);
      if (isPlan) {
        here.planned = Number(isPlan[2]) - Number(isPlan[1]) + 1;
        if (here.planned === 0 && isPlan[3] && depth === 0)
          problems.push({ line: i + 1, message: `nothing was run: ${isPlan[3]}` });
        continue;
      }
      settle(here);
      here.seen++;
      const { title, outcome, reason, durationMs, todo } = readTest(isTest![3]!, !isTest![1]);
      const inner = here.inner.length ? here.inner.splice(0) : [];
      if (depth === 0 || inner.length === 0) {
        if (inner.length) {
          // The line that sums a subtest up stands for its cases.
          for (const one of inner)
            done.push({ ...one, suite: [suite, ...one.suite.split('\n').filter(Boolean)].join(' / ') });
        }
      }
      if (inner.length) {
        if (depth > 0) {
          const named = inner.map((one) => ({ ...one, suite: one.suite || title }));
          here.inner.push(...named);
        }
        continue;
      }
      here.pending = {
        ok: !isTest![1],
        todo,
        case: {
          suite: depth === 0 ? suite : '',
          title: title || `test ${isTest![2] ?? here.seen}`,
          outcome,
          message: reason,
          stack: '',
          number: 1,
          ...(durationMs === undefined ? {} : { durationMs }),
          output: '',
          errorOutput: '',
          attachments: [],
          properties: todo ? { todo: 'true' } : {},
        },
      };
      continue;
    }
    const stopped = /^Bail out!\s*(.*)$/.exec(line);
    if (stopped) {
      problems.push({ line: i + 1, message: `the runner gave up here${stopped[1] ? `: ${stopped[1]}` : ''}` });
      bailed = true;
      continue;
    }
    const comment = /^#\s?(.*)$/.exec(line);
    if (comment) levels.at(-1)!.comments.push(comment[1]!);
  }
  const root = closeTo(0);
  settle(root);
  for (const one of root.inner)
    done.push({ ...one, suite: [suite, ...one.suite.split('\n').filter(Boolean)].join(' / ') });
  if (root.planned !== undefined && root.seen < root.planned && !bailed)
    problems.push({
      line: lines.length,
      message: `${root.planned} tests were planned, ${root.seen} are told; the report breaks off`,
    });
  if (root.seen === 0 && done.length === 0) problems.push({ line: 1, message: 'there is no test line in this report' });
  for (const one of done) one.number = tries.next(`${one.suite}\n${one.title}`);
  return { cases: done, problems };
}

function readTest(
  rest: string,
  ok: boolean,
): { title: string; outcome: ReportedOutcome; reason: string; durationMs?: number; todo: boolean } {
  const found = directive.exec(rest);
  let title = (found ? rest.slice(0, found.index) : rest).trim();
  const time = timeNote.exec(title);
  let durationMs: number | undefined;
  if (time) {
    durationMs = Number(time[1] ?? time[3]) * ((time[2] ?? time[4] ?? 'ms').startsWith('s') ? 1000 : 1);
    title = title.slice(0, time.index).trim();
  }
  title = title.replaceAll('\\#', '#').replaceAll('\\\\', '\\');
  const kind = found?.[1]!.toUpperCase();
  const outcome = kind === 'SKIP' ? 'skipped' : ok || kind === 'TODO' ? 'passed' : 'failed';
  const todo = kind === 'TODO';
  return {
    title,
    outcome: todo && !ok ? 'skipped' : outcome,
    reason: found?.[2]?.trim() ?? '',
    ...(durationMs === undefined ? {} : { durationMs }),
    todo,
  };
}

/** Lays a YAML block on its test: message, stack, duration, place, expected and found. */
function diagnose(one: ReportCase | undefined, yaml: string, unreadable: () => void): void {
  if (!one) return;
  let block: unknown;
  try {
    block = yaml.length > 200_000 ? yaml : parseYaml(yaml, { maxAliasCount: 20, logLevel: 'silent' });
  } catch {
    unreadable();
    block = undefined;
  }
  if (!block || typeof block !== 'object') {
    one.message ||= capped(yaml.trim(), mostMessage);
    return;
  }
  const told = block as Record<string, unknown>;
  const text = (...names: string[]): string | undefined => {
    for (const name of names) {
      const value = told[name];
      if (typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean') return String(value);
    }
    return undefined;
  };
  const duration = Number(text('duration_ms', 'duration', 'time'));
  if (Number.isFinite(duration) && duration >= 0 && text('duration_ms', 'duration', 'time')) one.durationMs = duration;
  one.stack = capped(text('stack', 'backtrace') ?? '', mostMessage);
  const place = told.at && typeof told.at === 'object' ? (told.at as Record<string, unknown>) : undefined;
  const file = text('file', 'location') ?? (typeof place?.file === 'string' ? place.file : undefined);
  if (file) one.file = file.replace(/^file:\/\//, '').replace(/:\d+(?::\d+)?$/, '');
  if (one.outcome !== 'failed') return;
  const expected = text('expected', 'wanted');
  const actual = text('actual', 'found', 'got');
  const message = text('error', 'message', 'reason') ?? '';
  const values =
    expected !== undefined && actual !== undefined && !(message.includes(expected) && message.includes(actual));
  one.message = capped(
    [message, values ? `expected: ${JSON.stringify(expected)}\nactual: ${JSON.stringify(actual)}` : '']
      .filter(Boolean)
      .join('\n'),
    mostMessage,
  );
}
