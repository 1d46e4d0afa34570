import type { ConsoleData } from '../evidence/event.ts';
import type { Trouble } from './report.ts';
import { months, namedHead, namedTime } from './named-times.ts';
import { epochOf } from './times.ts';
import { zoneOf } from './zone-text.ts';

/**
 * Console and log texts. The layout is recognised by looking at the lines: the one that reads most of
 * them is taken. A line without a time of its own belongs to the entry before it.
 */
export interface LogEntry {
  /** Epoch ms; ms since midnight for layouts that write no day, until `placeOnDay` has been asked. */
  at: number;
  level: ConsoleData['level'];
  text: string;
  source?: string;
  /** Line of the file the entry begins in, from 1. */
  line: number;
}

export interface LogText {
  layout: string;
  entries: LogEntry[];
  /** Where the zone came from: written in the lines, asked for, or taken as UTC. */
  zone: 'told' | 'given' | 'assumed' | 'none';
  /** Its lines tell the time of day only. */
  dayless?: boolean;
  problems: Trouble[];
}

export interface LogOptions {
  /** Minutes east of UTC for times without a zone. */
  zoneMinutes?: number;
  /** Epoch ms of a moment on the day of times that name no day or no year: the run's start. */
  day?: number;
}

const levelWords: [RegExp, ConsoleData['level']][] = [
  [/^(?:fatal|critical|crit|emerg|alert|severe|error|err|e|f)$/i, 'error'],
  [/^(?:warning|warn|w)$/i, 'warning'],
  [/^(?:debug|trace|verbose|fine|finer|finest|dbg|d|t|v)$/i, 'debug'],
  [/^(?:info|notice|log|information|config|i|n)$/i, 'info'],
];

/** A level word or number of any logger as one of our four; undefined for a word that is none. */
export function levelOf(word: string | number | undefined): ConsoleData['level'] | undefined {
  if (word === undefined) return undefined;
  const number = typeof word === 'number' ? word : /^\d+$/.test(word) ? Number(word) : undefined;
  // Numbers from 10 to 60 in tens are the ladder of JSON loggers; 0 to 7 are syslog severities.
  if (number !== undefined)
    return number >= 10
      ? number >= 50
        ? 'error'
        : number >= 40
          ? 'warning'
          : number >= 30
            ? 'info'
            : 'debug'
      : number <= 3
        ? 'error'
        : number === 4
          ? 'warning'
          : number <= 6
            ? 'info'
            : 'debug';
  return levelWords.find(([pattern]) => pattern.test(String(word)))?.[1];
}

const clock = String.raw`(\d{2}):(\d{2}):(\d{2})(?:[.,:](\d{1,9}))?`;
const zone = String.raw`(?:\s?(Z|UTC|GMT|[+-]\d{2}:?\d{2})(?=[\s\]|,:]|$))?`;

type Read = (match: RegExpExecArray, options: LogOptions) => { at: number; zoned: boolean; dayless?: boolean };

const dayTime = (hour: string, minute: string, second: string, fraction: string | undefined): number =>
  (Number(hour) * 3600 + Number(minute) * 60 + Number(second)) * 1000 + (fraction ? Number(`0.${fraction}`) * 1000 : 0);

/** Layouts with a time at the head of the line, most telling first. Group names would cost more than they give. */
const layouts: { name: string; head: RegExp; read: Read }[] = [
  {
    name: 'date and time',
    // Some loggers write their level's letter before it, and the process in the same brackets.
    head: new RegExp(
      String.raw`^(?:<\d{1,3}>\d? ?|[A-Z], )?\[?(\d{4})[-/.](\d{2})[-/.](\d{2})[T ,]\s?${clock}${zone}(?: #\d{1,10})?\]?`,
    ),
    read: (m, options) => ({
      at:
        Date.UTC(Number(m[1]), Number(m[2]) - 1, Number(m[3])) +
        dayTime(m[4]!, m[5]!, m[6]!, m[7]) -
        zoneOf(m[8], options.zoneMinutes) * 60_000,
      zoned: m[8] !== undefined,
    }),
  },
  {
    name: 'day/month/year',
    head: new RegExp(String.raw`^(?:\S+ \S+ \S+ )?\[?(\d{1,2})/([A-Z][a-z]{2})/(\d{4})[: ]${clock}${zone}\]?`),
    read: (m, options) => ({
      at:
        Date.UTC(Number(m[3]), months.indexOf(m[2]!.toLowerCase()), Number(m[1])) +
        dayTime(m[4]!, m[5]!, m[6]!, m[7]) -
        zoneOf(m[8], options.zoneMinutes) * 60_000,
      zoned: m[8] !== undefined,
    }),
  },
  {
    name: 'day by name',
    head: namedHead,
    read: (m, options) => namedTime(m[0], options.zoneMinutes) ?? { at: Number.NaN, zoned: false },
  },
  {
    name: 'month day time',
    head: new RegExp(String.raw`^(?:<\d+>)?([A-Z][a-z]{2})\s+(\d{1,2})\s+(?:(\d{4})\s+)?${clock}${zone}`),
    read: (m, options) => {
      const year = m[3] ? Number(m[3]) : new Date(options.day ?? 0).getUTCFullYear();
      return {
        at:
          Date.UTC(year, Math.max(0, months.indexOf(m[1]!.toLowerCase())), Number(m[2])) +
          dayTime(m[4]!, m[5]!, m[6]!, m[7]) -
          zoneOf(m[8], options.zoneMinutes) * 60_000,
        zoned: m[8] !== undefined,
      };
    },
  },
  {
    // [1123/100000.123456:ERROR:file.cc(12)], as browsers write their own log.
    name: 'month and day, packed',
    head: /^\[(?:\d+:\d+:)?(\d{2})(\d{2})\/(\d{2})(\d{2})(\d{2})\.(\d+):/,
    read: (m, options) => ({
      at:
        Date.UTC(new Date(options.day ?? 0).getUTCFullYear(), Number(m[1]) - 1, Number(m[2])) +
        dayTime(m[3]!, m[4]!, m[5]!, m[6]) -
        (options.zoneMinutes ?? 0) * 60_000,
      zoned: false,
    }),
  },
  {
    name: 'epoch',
    head: /^\[?(\d{10}(?:\.\d{1,9})?|\d{13}(?:\.\d{1,6})?|\d{16}|\d{19})\]?(?=[\s\]:|,])/,
    read: (m) => ({ at: epochOf(Number(m[1])) ?? Number.NaN, zoned: true }),
  },
  {
    name: 'time of day',
    head: new RegExp(String.raw`^[\[(]?${clock}[\])]?(?=[\s:|]|$)`),
    read: (m, options) => ({
      at: dayTime(m[1]!, m[2]!, m[3]!, m[4]) - (options.zoneMinutes ?? 0) * 60_000,
      zoned: false,
      dayless: true,
    }),
  },
];

const dayMs = 86_400_000;
const mostEntries = 2_000_000;
const longest = 64 * 1024;

/** Puts a time of day on the day that brings it nearest to a known moment. */
export function placeOnDay(ofDay: number, near: number): number {
  const base = Math.floor(near / dayMs) * dayMs + ofDay;
  return [base - dayMs, base, base + dayMs].reduce((best, one) =>
    Math.abs(one - near) < Math.abs(best - near) ? one : best,
  );
}

/** @returns undefined when no layout reads at least half of the first lines: then the text is no log we can put in time */
export function readLog(text: string, options: LogOptions = {}): LogText | undefined {
  const lines = text.split(/\r?\n/);
  const sample = lines.filter((line) => line.trim()).slice(0, 200);
  if (!sample.length) return undefined;
  if (sample.filter((line) => line.startsWith('{')).length > sample.length * 0.8) {
    const read = readJsonLines(lines, options);
    if (read) return read;
  }
  const scores = layouts.map(
    (layout) =>
      sample.filter(
        (line) => layout.head.test(line) && Number.isFinite(layout.read(layout.head.exec(line)!, options).at),
      ).length,
  );
  const best = scores.indexOf(Math.max(...scores));
  const heads = scores[best]!;
  if (heads === 0) return undefined;
  // Traces of several lines under one head are usual; a head must come early, and again.
  const early = sample.slice(0, 10).some((line) => layouts[best]!.head.test(line));
  if (heads < sample.length * 0.5 && (!early || heads < Math.max(2, sample.length * 0.08))) return undefined;
  return readLines(lines, layouts[best]!, options);
}

function readLines(lines: readonly string[], layout: (typeof layouts)[number], options: LogOptions): LogText {
  const entries: LogEntry[] = [];
  const problems: Trouble[] = [];
  let zoned = false;
  let dayless = false;
  let before = 0;
  let last: LogEntry | undefined;
  let more: string[] = [];
  const close = (): void => {
    if (last && more.length) {
      while (more.length && !more.at(-1)!.trim()) more.pop();
      last.text = cut([last.text, ...more].join('\n'));
    }
    more = [];
  };
  for (let i = 0; i < lines.length; i++) {
    const line = lines[i]!;
    const found = layout.head.exec(line);
    const read = found ? layout.read(found, options) : undefined;
    if (!read || !Number.isFinite(read.at)) {
      if (last) more.push(line);
      else if (line.trim()) before++;
      continue;
    }
    close();
    if (entries.length >= mostEntries) {
      problems.push({ line: i + 1, message: `only the first ${mostEntries} entries were read` });
      last = undefined;
      break;
    }
    zoned ||= read.zoned;
    dayless ||= read.dayless === true;
    const severity = /^<(\d{1,3})>/.exec(line);
    last = {
      at: read.at,
      ...bodyOf(
        layout.name === 'month and day, packed' ? `:${line.slice(found![0].length)}` : line.slice(found![0].length),
      ),
      // The lowest three bits of a syslog priority.
      ...(severity ? { level: levelOf(Number(severity[1]) & 7)! } : {}),
      line: i + 1,
    };
    entries.push(last);
  }
  close();
  if (before) problems.push({ line: 1, message: `${before} lines before the first time could not be put in time` });
  if (dayless) unwrapDays(entries, options.day);
  return {
    layout: layout.name,
    entries,
    zone: zoned ? 'told' : options.zoneMinutes === undefined ? 'assumed' : 'given',
    ...(dayless ? { dayless } : {}),
    problems,
  };
}

/** Times of day that fall back by hours have passed midnight. */
function unwrapDays(entries: LogEntry[], near: number | undefined): void {
  let shift = 0;
  let previous: number | undefined;
  const first = entries[0];
  if (!first) return;
  const base = near === undefined ? 0 : placeOnDay(first.at, near) - first.at;
  for (const entry of entries) {
    if (previous !== undefined && entry.at < previous - dayMs / 2) shift += dayMs;
    previous = entry.at;
    entry.at += shift + base;
  }
}

const cut = (text: string): string => (text.length > longest ? `${text.slice(0, longest)}…` : text);

const phpLevels: Record<string, ConsoleData['level']> = {
  Notice: 'info',
  Deprecated: 'info',
  Warning: 'warning',
  Fatal: 'error',
  Parse: 'error',
  Recoverable: 'error',
};

/** Level, source and text of what stands after the time. */
function bodyOf(rest: string): Pick<LogEntry, 'level' | 'text' | 'source'> {
  let text = rest.replace(/^[\s|,:\-–\]]+/, '');
  // [thread] LEVEL source - text, LEVEL source: text, [LEVEL] text, host process[1]: LEVEL text
  const packed = /^(INFO|WARNING|ERROR|FATAL|VERBOSE\d{0,4}):([\w./-]{1,200}\(?:?\d{1,9}\)?)\]\s{0,20}(.*)$/s.exec(
    text,
  );
  if (packed)
    return { level: levelOf(packed[1]!.replace(/\d{1,4}$/, '')) ?? 'info', source: packed[2]!, text: cut(packed[3]!) };
  let level: ConsoleData['level'] | undefined;
  let source: string | undefined;
  const php = /^PHP ([A-Z][a-z]{1,20})(?: [a-z]{1,20})?:\s{0,8}/.exec(text);
  if (php) return { level: phpLevels[php[1]!] ?? 'warning', source: 'PHP', text: cut(text.slice(php[0].length)) };
  for (let i = 0; i < 3 && level === undefined; i++) {
    const word = /^[[(<]?\s*([A-Za-z]+|\d{2})\s*[\])>]?(?=[\s:|\]-]|$)[\s:|-]*/.exec(text);
    level =
      word && !/^\d/.test(word[1]!)
        ? levelOf(word[1]!.length > 1 || /^[[(<]/.test(text) ? word[1] : undefined)
        : undefined;
    if (level !== undefined) {
      text = text.slice(word![0].length);
      break;
    }
    const lead = /^(?:\[[^\]\n]{1,80}\]|\([^)\n]{1,80}\)|[\w.-]+\s+[\w./-]+\[\d+\]:)\s*/.exec(text);
    if (!lead) break;
    source ??= lead[0].trim().replace(/^[[(]|[\])]$|:$/g, '');
    text = text.slice(lead[0].length);
  }
  const named =
    level === undefined
      ? null
      : /^(?:\[([^\]\n]{1,80})\]\s*(?:-\s|:\s)?|([\w.$/-]{2,80})\s*(?:\s-\s|:\s))\s*/.exec(text);
  if (named) {
    source = named[1] ?? named[2];
    text = text.slice(named[0].length);
  }
  return { level: level ?? 'info', text: cut(text.trim()), ...(source ? { source } : {}) };
}

const timeKeys = ['time', 'timestamp', '@timestamp', 'ts', 't', 'datetime', 'date', 'at'];
const levelKeys = ['level', 'severity', 'lvl', 'loglevel', 'log.level', 'type'];
const textKeys = ['msg', 'message', 'text', 'event', 'body'];
const sourceKeys = ['logger', 'name', 'source', 'module', 'component', 'target'];

function readJsonLines(lines: readonly string[], options: LogOptions): LogText | undefined {
  const entries: LogEntry[] = [];
  const problems: Trouble[] = [];
  let told = false;
  for (let i = 0; i < lines.length; i++) {
    const line = lines[i]!.trim();
    if (!line) continue;
    let value: Record<string, unknown> | undefined;
    try {
      value = JSON.parse(line) as Record<string, unknown>;
    } catch {
      if (problems.length < 20) problems.push({ line: i + 1, message: 'this line is not readable as JSON' });
    }
    if (!value || typeof value !== 'object' || Array.isArray(value)) continue;
    const pick = (keys: string[]): unknown =>
      keys.map((key) => value[key]).find((one) => one !== undefined && one !== null);
    const time = pick(timeKeys);
    const at =
      typeof time === 'number' ? epochOf(time) : typeof time === 'string' ? timeFrom(time, options) : undefined;
    if (at === undefined) continue;
    told ||= typeof time === 'number' || /(?:Z|[+-]\d{2}:?\d{2})$/.test(String(time));
    const text = pick(textKeys);
    const source = pick(sourceKeys);
    const stack = (value.stack ?? (value.err as Record<string, unknown> | undefined)?.stack) as unknown;
    entries.push({
      at,
      level: levelOf(pick(levelKeys) as string | number | undefined) ?? 'info',
      text: cut(
        [typeof text === 'string' ? text : JSON.stringify(text ?? value), typeof stack === 'string' ? stack : '']
          .filter(Boolean)
          .join('\n'),
      ),
      ...(typeof source === 'string' ? { source } : {}),
      line: i + 1,
    });
  }
  return entries.length
    ? {
        layout: 'JSON lines',
        entries,
        zone: told ? 'told' : options.zoneMinutes === undefined ? 'assumed' : 'given',
        problems,
      }
    : undefined;
}

function timeFrom(text: string, options: LogOptions): number | undefined {
  const head = layouts[0]!.head.exec(text);
  if (head) return layouts[0]!.read(head, options).at;
  return /^\d+(\.\d+)?$/.test(text) ? epochOf(Number(text)) : undefined;
}
