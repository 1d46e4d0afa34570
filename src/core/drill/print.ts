import type { Condition, Drill, DrillLocator, Statement, Subject, Target } from './drill.ts';

const text = (value: string): string => JSON.stringify(value);

const duration = (ms: number): string => (ms >= 1000 && ms % 1000 === 0 ? `${ms / 1000} s` : `${ms} ms`);

function locator(found: DrillLocator): string {
  const match = found.match ? ` match ${found.match}` : '';
  const within = found.within ? ` in ${target(found.within)}` : '';
  return `${found.by} ${text(found.value)}${match}${within}`;
}

const target = (of: Target): string => ('name' in of ? of.name : locator(of.locator));

function subject(read: Subject): string {
  const key = read.key === undefined ? '' : ` ${text(read.key)}`;
  return read.of ? `${read.what}${key} of ${target(read.of)}` : read.what;
}

function condition(until: Condition): string {
  if (until.kind === 'script') return `script ${text(until.script)} answers`;
  if (until.kind === 'there') return `${target(until.target)} is there`;
  return `${subject(until.subject)} ${until.comparison} ${text(until.value)}`;
}

/** One statement as its line. */
export function printStatement(s: Statement): string {
  switch (s.do) {
    case 'window':
      return `window ${s.width} x ${s.height}`;
    case 'implicit':
      return `implicit ${duration(s.ms)}`;
    case 'open':
      return `open ${text(s.address)}`;
    case 'find':
      return `find ${s.name} = ${locator(s.locator)}`;
    case 'press':
    case 'clear':
      return `${s.do} ${target(s.target)}`;
    case 'type':
      return `type ${text(s.text)} into ${target(s.target)}`;
    case 'type secret':
      return `type secret ${text(s.secret)} into ${target(s.target)}`;
    case 'actions':
      return `actions ${text(s.json)}`;
    case 'read':
      return `read ${subject(s.subject)}`;
    case 'check':
      return `check ${subject(s.subject)} ${s.comparison} ${text(s.value)}`;
    case 'wait':
      return `wait until ${condition(s.until)} up to ${duration(s.limitMs)} every ${duration(s.everyMs)}`;
    case 'pause':
      return `pause ${duration(s.ms)}`;
    case 'script':
      return `script ${text(s.script)}`;
    case 'to window':
      return `switch to window ${s.number}`;
    case 'to frame':
      return `switch to frame ${s.where ?? (s.target ? target(s.target) : s.number)}`;
    case 'dialog':
      return `${s.answer} dialog${s.text === undefined ? '' : ` with ${text(s.text)}`}`;
    default:
      return s.do;
  }
}

/** A drill as text; `parseDrill` reads it back to the same drill. */
export function printDrill(drill: Drill, remarks: readonly string[] = []): string {
  const head = [`drill ${text(drill.title)}`, ...remarks.map((remark) => `# ${remark.replace(/\s+/g, ' ')}`), ''];
  return [...head, ...drill.lines.map(printStatement)].join('\n') + '\n';
}
