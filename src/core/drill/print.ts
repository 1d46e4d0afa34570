import type {
  Amount,
  Argument,
  Condition,
  Draw,
  Drill,
  DrillLocator,
  Place,
  Remembered,
  Statement,
  Subject,
  Target,
  Value,
} from './drill.ts';

const text = (value: string): string => JSON.stringify(value);

const remembered = ({ name, path = [] }: Remembered): string => [name, ...path].join('.');

/** A value as a drill writes it. */
export const printValue = (value: Value): string =>
  typeof value === 'string'
    ? text(value)
    : value.parts.map((part) => (typeof part === 'string' ? text(part) : remembered(part))).join(' + ');

const amount = (of: Amount): string =>
  typeof of === 'number' ? String(of) : `${remembered(of.of)}${of.plus === 0 ? '' : ` + ${of.plus}`}`;

const duration = (ms: number): string => (ms >= 1000 && ms % 1000 === 0 ? `${ms / 1000} s` : `${ms} ms`);

function locator(found: DrillLocator): string {
  const named = found.named === undefined ? '' : ` named ${printValue(found.named)}`;
  const match = found.match ? ` match ${found.match}` : '';
  const within = found.within ? ` in ${target(found.within)}` : '';
  return `${found.by} ${printValue(found.value)}${named}${match}${within}`;
}

const target = (of: Target): string => ('name' in of ? of.name : locator(of.locator));

const place = (at: Place): string =>
  'target' in at
    ? `${target(at.target)}${at.offset ? ` offset ${at.offset.x}, ${at.offset.y}` : ''}`
    : `${amount(at.x)}, ${amount(at.y)}`;

const travel = ({ overMs }: { overMs?: number }): string => (overMs ? ` over ${duration(overMs)}` : '');

function subject(read: Subject): string {
  if (read.what === 'answer') return `answer of script ${text(read.script ?? '')}${given(read.arguments)}`;
  const key = read.key === undefined ? '' : ` ${text(read.key)}`;
  return read.of ? `${read.what}${key} of ${target(read.of)}` : read.what;
}

const argument = (one: Argument): string =>
  'target' in one ? target(one.target) : 'number' in one ? String(one.number) : printValue(one.value);

const given = (list: readonly Argument[] = []): string => (list.length ? ` with ${list.map(argument).join(', ')}` : '');

function draw(from: Draw): string {
  switch (from.kind) {
    case 'letters':
    case 'digits':
      return `${from.kind} ${from.length}`;
    case 'number':
      return `number ${from.from} to ${from.to}`;
    case 'one of':
      return `one of ${from.texts.map(text).join(', ')}`;
    default:
      return from.kind;
  }
}

/** A condition as a drill writes it. */
export function printCondition(until: Condition): string {
  switch (until.kind) {
    case 'script':
      return `script ${text(until.script)}${given(until.arguments)} answers`;
    case 'value': {
      const isCount = until.comparison === 'is at least' || until.comparison === 'is at most';
      const value = isCount && typeof until.value === 'string' ? bareNumber(until.value) : printValue(until.value);
      return `${subject(until.subject)} ${until.comparison} ${value}`;
    }
    case 'answered':
      return `request ${text(until.request)} is answered`;
    case 'said':
      return `console says ${text(until.text)}`;
    case 'quiet':
      return `all is quiet for ${duration(until.forMs)}`;
    case 'either':
      return `either ${until.of.map(printCondition).join(' or ')}`;
    default:
      return `${target(until.target)} is ${until.kind}`;
  }
}

/** Numbers stand without quotes where they read back as they are. */
const bareNumber = (value: string): string =>
  /^-?\d{1,15}$/.test(value) && String(Number(value)) === value ? value : text(value);

/** One statement as its line. */
export function printStatement(s: Statement): string {
  switch (s.do) {
    case 'window':
      return `window ${s.width} x ${s.height}`;
    case 'implicit':
      return `implicit ${duration(s.ms)}`;
    case 'limit':
      return `limit ${s.of} ${duration(s.ms)}`;
    case 'seed':
      return `seed ${s.number}`;
    case 'group':
    case 'note':
      return `${s.do} ${text(s.words)}`;
    case 'open':
      return `open ${printValue(s.address)}`;
    case 'find':
      return `find ${s.name} = ${locator(s.locator)}`;
    case 'remember':
      return `remember ${s.name} = ${subject(s.subject)}`;
    case 'remember place':
      return `remember ${s.name} = place of ${target(s.target)}`;
    case 'remember script':
      return `remember ${s.name} = script ${text(s.script)}${given(s.arguments)}`;
    case 'draw':
      return `draw ${s.name} = ${draw(s.from)}`;
    case 'press':
    case 'clear':
    case 'scroll to':
      return `${s.do} ${target(s.target)}`;
    case 'click':
      return `click ${s.how ? `${s.how} ` : ''}${place(s.at)}${travel(s)}`;
    case 'hover':
      return `hover ${place(s.at)}${travel(s)}`;
    case 'drag':
      return `drag ${place(s.from)} to ${place(s.to)}`;
    case 'drag by':
      return `drag ${place(s.from)} by ${s.x}, ${s.y}`;
    case 'scroll by':
      return `scroll by ${s.x}, ${s.y}`;
    case 'keys':
      return `keys ${text(s.keys)}`;
    case 'choose':
      return `choose ${printValue(s.text)} in ${target(s.target)}`;
    case 'type':
      return `type ${printValue(s.text)} into ${target(s.target)}`;
    case 'type secret':
      return `type secret ${text(s.secret)} into ${target(s.target)}`;
    case 'actions':
      return `actions ${text(s.json)}`;
    case 'read':
      return `read ${subject(s.subject)}`;
    case 'check':
      return `check ${printCondition(s.that)}`;
    case 'wait':
      return `wait until ${printCondition(s.until)} up to ${duration(s.limitMs)} every ${duration(s.everyMs)}`;
    case 'when':
      return `when ${printCondition(s.that)} then ${printStatement(s.then)}`;
    case 'pause':
      return `pause ${duration(s.ms)}`;
    case 'script':
      return `script ${text(s.script)}${given(s.arguments)}`;
    case 'to window':
      return `switch to window ${s.number}`;
    case 'to newest window':
      return 'switch to newest window';
    case 'to window at':
      return `switch to window at ${printValue(s.address)}`;
    case 'new window':
      return `new ${s.what}`;
    case 'to frame':
      return `switch to frame ${s.where ?? (s.target ? target(s.target) : s.number)}`;
    case 'dialog':
      return `${s.answer} dialog${s.text === undefined ? '' : ` with ${text(s.text)}`}`;
    case 'cookie':
      return `cookie ${text(s.name)} is ${printValue(s.value)}`;
    case 'forget cookies':
      return s.name === undefined ? 'forget cookies' : `forget cookie ${text(s.name)}`;
    default:
      return s.do;
  }
}

/** A drill as text; `parseDrill` reads it back to the same drill. */
export function printDrill(drill: Drill, remarks: readonly string[] = []): string {
  const head = [`drill ${text(drill.title)}`, ...remarks.map((remark) => `# ${remark.replace(/\s+/g, ' ')}`), ''];
  return [...head, ...drill.lines.map(printStatement)].join('\n') + '\n';
}
