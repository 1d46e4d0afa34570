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

const testLine = /^(not )?ok\b\s*(\d+)?(?:\s*-)?\s*(.*)$/s;
const planLine = /^(\d+)\.\.(\d+)(?:\s*#(.*))?$/s;
const directive = /(?<!\\)#\s*(SKIP|TODO)\b\S*(.*)$/is;
const timeNote =
  /(?:^|\s)#\s*(?:time|duration)[=:\s]{1,20}(\d{1,12}(?:\.\d{1,12})?)\s{0,20}(ms|s|sec)?\b|(?<!\s)\s+in\s{1,20}(\d{1,12}(?:\.\d{1,12})?)\s{0,20}(ms|sec|s)\s*$/i;

/** A finished case and the names of the subtests around it, outermost first. */
interface Done {
  path: string[];
  one: ReportCase;
}

/** The lines of one indentation: a report, or a subtest inside one. */
class Level {
  planned: number | undefined;
  seen = 0;
  /** The last test line, which comments and YAML after it still speak of. */
  pending: ReportCase | undefined;
  comments: string[] = [];
  done: Done[] = [];
  /** Cases of a subtest that has ended; the next test line names and sums it up. */
  inner: Done[] = [];

  settle(): void {
    const { pending: one } = this;
    const told = this.comments.join('\n').trim();
    this.pending = undefined;
    this.comments = [];
    if (!one) return;
    if (one.outcome === 'failed' && !one.message) one.message = capped(told, mostMessage);
    else if (told) one.output = capped([one.output, told].filter(Boolean).join('\n'), mostOutput);
    one.attachments = attachmentsIn(`${one.message}\n${one.output}`);
    this.done.push({ path: [], one });
  }
}

const named = (title: string, inner: readonly Done[]): Done[] =>
  inner.map(({ path, one }) => ({ path: [title, ...path].filter(Boolean), one }));

/**
 * @param text the whole report
 * @param suite name of the suite where the report does not name one: usually its file
 */
export function readTap(text: string, suite: string): TapReport {
  const problems: Trouble[] = [];
  const levels = [new Level()];
  const lines = text.split(/\r?\n/);
  let bailed = false;
  const closeTo = (depth: number): Level => {
    while (levels.length > depth + 1) {
      const ended = levels.pop()!;
      ended.settle();
      levels.at(-1)!.inner.push(...ended.done, ...named('', ended.inner));
    }
    return levels.at(-1)!;
  };
  for (let i = 0; i < lines.length && !bailed; i++) {
    const raw = lines[i]!;
    const line = raw.trim();
    const indent = raw.search(/\S/);
    if (!line || /^(?:TAP version \d+|# Subtest\b.*|pragma\b.*)$/.test(line)) continue;
    const depth = Math.min(Math.floor(indent / 4), 50);
    if (line.startsWith('---') && indent % 4 === 2) {
      const end = lines.findIndex((other, j) => j > i && other.trim() === '...' && other.search(/\S/) === indent);
      const stop = end < 0 ? lines.length : end;
      if (end < 0) problems.push({ line: i + 1, message: 'a YAML block is not closed with “...”' });
      const yaml = lines.slice(i + 1, stop).map((one) => one.slice(indent));
      diagnose(levels.at(-1)!.pending, yaml.join('\n'), () =>
        problems.push({ line: i + 2, message: 'the YAML of this test could not be read; its text was kept' }),
      );
      i = stop;
      continue;
    }
    const isTest = testLine.exec(line);
    const isPlan = planLine.exec(line);
    if (isTest || isPlan) {
      while (levels.length - 1 < depth) levels.push(new Level());
      const here = closeTo(depth);
      if (isPlan) {
        here.planned = Number(isPlan[2]) - Number(isPlan[1]) + 1;
        if (here.planned === 0 && depth === 0)
          problems.push({ line: i + 1, message: `nothing was run${isPlan[3] ? `: ${isPlan[3].trim()}` : ''}` });
        continue;
      }
      here.settle();
      here.seen++;
      const { todo, ...read } = readTest(isTest![3]!, !isTest![1]);
      const inner = here.inner.splice(0);
      here.done.push(...named(read.title, inner));
      // A line that sums a subtest up is no case of its own, unless it failed where none of its cases did, or its own group
      // planned it as one of its subtests and it passed.
      const summed =
        inner.length > 0 &&
        (read.outcome === 'failed'
          ? inner.some(({ one }) => one.outcome === 'failed')
          : depth === 0 || read.outcome !== 'passed');
      if (summed) continue;
      here.pending = {
        suite,
        ...read,
        title: read.title || `test ${isTest![2] ?? here.seen}`,
        stack: '',
        number: 1,
        output: '',
        errorOutput: '',
        attachments: [],
        properties: todo ? { todo: 'true' } : {},
      };
      continue;
    }
    const stopped = /^Bail out!(.*)$/s.exec(line);
    if (stopped) {
      problems.push({
        line: i + 1,
        message: `the runner gave up here${stopped[1]!.trim() ? `: ${stopped[1]!.trim()}` : ''}`,
      });
      bailed = true;
      continue;
    }
    const comment = /^#\s?(.*)$/.exec(line);
    if (comment) levels.at(-1)!.comments.push(comment[1]!);
  }
  const root = closeTo(0);
  root.settle();
  if (root.planned !== undefined && root.seen < root.planned && !bailed)
    problems.push({
      line: lines.length,
      message: `${root.planned} tests were planned, ${root.seen} are told; the report breaks off`,
    });
  const tries = new Tries();
  const cases = [...root.done, ...root.inner].map(({ path, one }): ReportCase => {
    const full = [suite, ...path].join(' / ');
    return { ...one, suite: full, number: tries.next(`${full}\n${one.title}`) };
  });
  if (!cases.length) problems.push({ line: 1, message: 'there is no test line in this report' });
  return { cases, problems };
}

function readTest(
  rest: string,
  ok: boolean,
): {
  title: string;
  outcome: ReportedOutcome;
  message: string;
  durationMs?: number;
  todo: boolean;
} {
  const found = directive.exec(rest);
  let title = (found ? rest.slice(0, found.index) : rest).trim();
  const time = timeNote.exec(title);
  let durationMs: number | undefined;
  if (time) {
    durationMs = Number(time[1] ?? time[3]) * ((time[2] ?? time[4] ?? 'ms').startsWith('s') ? 1000 : 1);
    title = title.slice(0, time.index).trim();
  }
  // What follows an unescaped sign is a remark.
  title = title.replace(/\s(?<!\\)#\s.*$/s, '').trim();
  title = title.replaceAll('\\#', '#').replaceAll('\\\\', '\\');
  const kind = found?.[1]!.toUpperCase();
  const outcome = kind === 'SKIP' ? 'skipped' : ok || kind === 'TODO' ? 'passed' : 'failed';
  const todo = kind === 'TODO';
  return {
    title,
    outcome: todo && !ok ? 'skipped' : outcome,
    message: found?.[2]?.trim() ?? '',
    ...(durationMs === undefined ? {} : { durationMs }),
    todo,
  };
}

/** Lays a YAML block on its test: message, stack, duration, place, expected and found. */
function diagnose(one: ReportCase | undefined, yaml: string, unreadable: () => void): void {
  if (!one) return;
  let block: unknown;
  try {
    block = yaml.length > 200_000 ? yaml : parseYaml(yaml, { maxAliasCount: 20, logLevel: 'error' });
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
