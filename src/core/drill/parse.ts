import { linearPattern } from '../patterns/linear-pattern.ts';
import {
  elementSubjects,
  keyedSubjects,
  pageSubjects,
  strategies,
  type Comparison,
  type Condition,
  type Drill,
  type DrillError,
  type DrillLocator,
  type Line,
  type Statement,
  type Subject,
  type Target,
} from './drill.ts';
import { tokensOf, type Token } from './tokens.ts';

/** Waits without a limit of their own: what most suites set. */
const defaultLimitMs = 5000;
const defaultEveryMs = 100;
/** Larger drills are a mistake or an attack; a page of steps has some hundred lines. */
const mostLines = 5000;

class Fault extends Error {
  constructor(
    readonly column: number,
    message: string,
  ) {
    super(message);
  }
}

/** Reads one line's tokens from left to right. */
class Reader {
  private at = 0;
  constructor(
    private readonly tokens: readonly Token[],
    private readonly end: number,
    readonly names: ReadonlySet<string>,
  ) {}

  get column(): number {
    return this.tokens[this.at]?.column ?? this.end;
  }
  peek(): Token | undefined {
    return this.tokens[this.at];
  }
  fail(message: string): never {
    throw new Fault(this.column, message);
  }
  /** Takes the words when they are next; tells whether it did. */
  take(...words: string[]): boolean {
    const fits = words.every((word, i) => {
      const token = this.tokens[this.at + i];
      return token !== undefined && token.kind !== 'text' && token.value === word;
    });
    if (fits) this.at += words.length;
    return fits;
  }
  expect(...words: string[]): void {
    if (!this.take(...words)) this.fail(`expected “${words.join(' ')}” here`);
  }
  text(what: string): string {
    const token = this.peek();
    if (token?.kind !== 'text') this.fail(`expected ${what} in double quotes here`);
    this.at++;
    return token.value;
  }
  number(what: string): number {
    const token = this.peek();
    if (token?.kind !== 'number') this.fail(`expected ${what}, a number, here`);
    this.at++;
    return Number(token.value);
  }
  name(): string {
    const token = this.peek();
    if (token?.kind !== 'word') this.fail('expected a name here: letters, digits and hyphens');
    this.at++;
    return token.value;
  }
  duration(): number {
    const amount = this.number('a duration');
    if (this.take('ms')) return amount;
    if (this.take('s')) return amount * 1000;
    return this.fail('a duration needs its unit: “ms” or “s”');
  }
  done(): void {
    const token = this.peek();
    if (token) this.fail(`“${token.value}” is more than this statement takes`);
  }

  isLocator(): boolean {
    return strategies.some((by) =>
      by
        .split(' ')
        .every((word, i) => this.tokens[this.at + i]?.value === word && this.tokens[this.at + i]?.kind === 'word'),
    );
  }
  locator(): DrillLocator {
    const by = [...strategies].sort((a, b) => b.length - a.length).find((name) => this.take(...name.split(' ')));
    if (!by) this.fail(`expected a locator here: ${strategies.join(', ')} and its text in quotes`);
    const locator: DrillLocator = { by, value: this.text('the locator') };
    if (this.take('match')) {
      const column = this.column;
      const match = this.number('which match');
      if (!Number.isInteger(match) || match < 1) throw new Fault(column, 'matches are counted from 1');
      if (match > 1) locator.match = match;
    }
    if (this.take('in')) locator.within = this.target();
    return locator;
  }
  target(): Target {
    if (this.isLocator()) return { locator: this.locator() };
    const column = this.column;
    const token = this.peek();
    if (token?.kind !== 'word')
      this.fail('expected an element here: a name given by “find”, or a locator such as css "#save"');
    const name = this.name();
    if (!this.names.has(name))
      throw new Fault(column, `nothing was found as “${name}” above; write: find ${name} = css "…"`);
    return { name };
  }
  subject(): Subject {
    for (const what of pageSubjects) if (this.take(what)) return { what };
    for (const what of elementSubjects) {
      if (!this.take(what)) continue;
      const key = keyedSubjects.includes(what) ? this.text(`which ${what}`) : undefined;
      this.expect('of');
      return { what, ...(key === undefined ? {} : { key }), of: this.target() };
    }
    return this.fail(`expected what to read: ${[...elementSubjects, ...pageSubjects].join(', ')}`);
  }
  comparison(): Comparison {
    if (this.take('is', 'not')) return 'is not';
    if (this.take('is')) return 'is';
    if (this.take('contains')) return 'contains';
    if (this.take('matches')) return 'matches';
    return this.fail('expected “is”, “is not”, “contains” or “matches” here');
  }
  compared(comparison: Comparison): string {
    const column = this.column;
    const value = this.text('a value');
    if (comparison === 'matches') {
      try {
        linearPattern(value);
      } catch (error) {
        throw new Fault(column, `this pattern cannot be read: ${(error as Error).message}`);
      }
    }
    return value;
  }
}

const statements: Record<string, (r: Reader) => Statement> = {
  window: (r) => {
    const width = r.number('the width');
    r.expect('x');
    return { do: 'window', width, height: r.number('the height') };
  },
  implicit: (r) => ({ do: 'implicit', ms: r.duration() }),
  open: (r) => ({ do: 'open', address: r.text('the address') }),
  back: () => ({ do: 'back' }),
  forward: () => ({ do: 'forward' }),
  reload: () => ({ do: 'reload' }),
  find: (r) => {
    const name = r.name();
    r.expect('=');
    return { do: 'find', name, locator: r.locator() };
  },
  press: (r) => ({ do: 'press', target: r.target() }),
  type: (r) => {
    if (r.take('secret')) {
      const secret = r.text('the name of the secret');
      r.expect('into');
      return { do: 'type secret', secret, target: r.target() };
    }
    const text = r.text('what to type');
    r.expect('into');
    return { do: 'type', text, target: r.target() };
  },
  clear: (r) => ({ do: 'clear', target: r.target() }),
  actions: (r) => {
    const column = r.column;
    const json = r.text('the actions as JSON');
    try {
      JSON.parse(json);
    } catch {
      throw new Fault(column, 'the actions are not readable as JSON');
    }
    return { do: 'actions', json };
  },
  read: (r) => ({ do: 'read', subject: r.subject() }),
  check: (r) => {
    const subject = r.subject();
    const comparison = r.comparison();
    return { do: 'check', subject, comparison, value: r.compared(comparison) };
  },
  wait: (r) => {
    r.expect('until');
    const until = condition(r);
    const limitMs = r.take('up', 'to') ? r.duration() : defaultLimitMs;
    const everyMs = r.take('every') ? r.duration() : defaultEveryMs;
    return { do: 'wait', until, limitMs, everyMs };
  },
  pause: (r) => ({ do: 'pause', ms: r.duration() }),
  script: (r) => ({ do: 'script', script: r.text('the script') }),
  switch: (r) => {
    r.expect('to');
    if (r.take('window')) return { do: 'to window', number: r.number('which window, from 1') };
    r.expect('frame');
    if (r.take('top')) return { do: 'to frame', where: 'top' };
    if (r.take('parent')) return { do: 'to frame', where: 'parent' };
    if (r.peek()?.kind === 'number') return { do: 'to frame', number: r.number('which frame, from 1') };
    return { do: 'to frame', target: r.target() };
  },
  close: (r) => {
    r.expect('window');
    return { do: 'close window' };
  },
  accept: (r) => {
    r.expect('dialog');
    return { do: 'dialog', answer: 'accept', ...(r.take('with') ? { text: r.text('what to answer') } : {}) };
  },
  dismiss: (r) => {
    r.expect('dialog');
    return { do: 'dialog', answer: 'dismiss' };
  },
  screenshot: () => ({ do: 'screenshot' }),
};

function condition(r: Reader): Condition {
  if (r.take('script')) {
    const script = r.text('the script');
    r.expect('answers');
    return { kind: 'script', script };
  }
  const named = r.peek()?.kind === 'word' && r.names.has(r.peek()!.value);
  if (r.isLocator() || named) {
    const target = r.target();
    r.expect('is', 'there');
    return { kind: 'there', target };
  }
  const subject = r.subject();
  const comparison = r.comparison();
  return { kind: 'value', subject, comparison, value: r.compared(comparison) };
}

/** Reads a drill. With faults, `drill` is undefined and every fault is told with its place and its mend. */
export function parseDrill(text: string): { drill?: Drill; errors: DrillError[] } {
  const errors: DrillError[] = [];
  const lines: Line[] = [];
  const names = new Set<string>();
  let title: string | undefined;
  const source = text.split(/\r?\n/);
  if (source.length > mostLines)
    return { errors: [{ line: mostLines, column: 1, message: `a drill has at most ${mostLines} lines` }] };
  source.forEach((content, i) => {
    const number = i + 1;
    const { tokens, error } = tokensOf(content, number);
    if (error) {
      errors.push(error);
      return;
    }
    const first = tokens[0];
    if (!first) return;
    const reader = new Reader(tokens.slice(1), content.trimEnd().length + 1, names);
    try {
      if (first.value === 'drill' && first.kind === 'word') {
        title = reader.text('the title');
      } else {
        const statement =
          first.kind === 'word' && Object.hasOwn(statements, first.value) ? statements[first.value] : undefined;
        if (!statement)
          throw new Fault(
            first.column,
            `“${first.value}” is no statement; one of: ${Object.keys(statements).join(', ')}`,
          );
        const read = statement(reader);
        lines.push({ ...read, line: number });
        if (read.do === 'find') names.add(read.name);
      }
      reader.done();
    } catch (fault) {
      if (!(fault instanceof Fault)) throw fault;
      errors.push({ line: number, column: fault.column, message: fault.message });
    }
  });
  if (errors.length === 0 && lines.length === 0)
    errors.push({ line: 1, column: 1, message: 'this drill does nothing yet; begin with: open "http://…"' });
  if (errors.length) return { errors };
  return { drill: { title: title ?? 'a drill', lines }, errors };
}
