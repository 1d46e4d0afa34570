import { linearPattern } from '../patterns/linear-pattern.ts';
import {
  comparisons,
  elementSubjects,
  keyedSubjects,
  pageSubjects,
  strategies,
  type Amount,
  type Argument,
  type Comparison,
  type DrillLocator,
  type Place,
  type Remembered,
  type Subject,
  type Target,
  type Value,
} from './drill.ts';
import type { Token } from './tokens.ts';

/** A fault of a line: where, what is wrong, how to mend it. */
export class Fault extends Error {
  constructor(
    readonly column: number,
    message: string,
  ) {
    super(message);
  }
}

/** Names that lines above gave: to elements they found, and to values they remembered. */
export interface Names {
  elements: Set<string>;
  values: Set<string>;
}

const longestFirst = <T extends string>(words: readonly T[]): T[] => [...words].sort((a, b) => b.length - a.length);
const byLength = longestFirst(strategies);

/** Reads one line's tokens from left to right. */
export class Reader {
  private at = 0;
  constructor(
    private readonly tokens: readonly Token[],
    private readonly end: number,
    readonly names: Names,
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
  private fits(words: readonly string[]): boolean {
    return words.every((word, i) => {
      const token = this.tokens[this.at + i];
      return token !== undefined && token.kind !== 'text' && token.value === word;
    });
  }
  /** Takes the words when they are next; tells whether it did. */
  take(...words: string[]): boolean {
    const fits = this.fits(words);
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
  /** A whole number that counts something. */
  counted(what: string, least: number, most: number): number {
    const column = this.column;
    const number = this.number(what);
    if (!Number.isInteger(number) || number < least || number > most)
      throw new Fault(column, `${what}: a whole number, counted from ${least}, at most ${most}`);
    return number;
  }
  name(): string {
    const token = this.peek();
    if (token?.kind !== 'word') this.fail('expected a name here: letters, digits and hyphens');
    this.at++;
    return token.value;
  }
  duration(): number {
    const column = this.column;
    const amount = this.number('a duration');
    if (amount < 0) throw new Fault(column, 'a duration is never below nothing');
    if (this.take('ms')) return amount;
    if (this.take('s')) return amount * 1000;
    return this.fail('a duration needs its unit: “ms” or “s”');
  }
  done(): void {
    const token = this.peek();
    if (token) this.fail(`“${token.value}” is more than this statement takes`);
  }

  /** Texts and remembered values, joined by `+`. */
  value(what: string): Value {
    const parts = [this.part(what)];
    while (this.take('+')) parts.push(this.part('another text or remembered value'));
    return parts.length === 1 && typeof parts[0] === 'string' ? parts[0] : { parts };
  }
  private part(what: string): string | Remembered {
    if (this.peek()?.kind === 'word') return this.remembered();
    return this.text(what);
  }
  remembered(): Remembered {
    const column = this.column;
    const name = this.name();
    if (!this.names.values.has(name))
      throw new Fault(
        column,
        this.names.elements.has(name)
          ? `“${name}” is an element; read something of it first: remember its-text = text of ${name}`
          : `nothing was remembered as “${name}” above; a text stands in double quotes`,
      );
    const path: string[] = [];
    while (this.take('.')) {
      const token = this.peek();
      if (token?.kind !== 'word' && !(token?.kind === 'number' && /^\d/.test(token.value)))
        this.fail('expected which part, a name or a number, here');
      // Two numbers with a point between them look like one.
      path.push(...token.value.split('.'));
      this.at++;
    }
    return path.length ? { name, path } : { name };
  }
  amount(what: string): Amount {
    if (this.peek()?.kind !== 'word') return this.number(what);
    const of = this.remembered();
    return { of, plus: this.take('+') ? this.number('what is added') : 0 };
  }

  isLocator(): boolean {
    return strategies.some((by) => this.fits(by.split(' ')));
  }
  locator(): DrillLocator {
    const by = byLength.find((name) => this.take(...name.split(' ')));
    if (!by) this.fail(`expected a locator here: ${strategies.join(', ')} and its text in quotes`);
    const locator: DrillLocator = { by, value: this.value('the locator') };
    if (by === 'role' && this.take('named')) locator.named = this.value('the name');
    if (this.take('match')) {
      const match = this.counted('which match', 1, 100_000);
      if (match > 1) locator.match = match;
    }
    if (this.take('in')) locator.within = this.target();
    return locator;
  }
  isTarget(): boolean {
    const token = this.peek();
    return this.isLocator() || (token?.kind === 'word' && this.names.elements.has(token.value));
  }
  target(): Target {
    if (this.isLocator()) return { locator: this.locator() };
    const column = this.column;
    const token = this.peek();
    if (token?.kind !== 'word')
      this.fail('expected an element here: a name given by “find”, or a locator such as css "#save"');
    const name = this.name();
    if (!this.names.elements.has(name))
      throw new Fault(column, `nothing was found as “${name}” above; write: find ${name} = css "…"`);
    return { name };
  }
  /** An element, or `x, y` in the window. */
  place(): Place {
    const token = this.peek();
    const isPoint = token?.kind === 'number' || (token?.kind === 'word' && this.names.values.has(token.value));
    if (!isPoint) {
      const target = this.target();
      if (!this.take('offset')) return { target };
      const right = this.number('how far to the right');
      this.expect(',');
      return { target, offset: { x: right, y: this.number('how far down') } };
    }
    const x = this.amount('how far from the left');
    this.expect(',');
    return { x, y: this.amount('how far from the top') };
  }
  subject(): Subject {
    for (const what of pageSubjects) if (this.take(what)) return { what };
    for (const what of elementSubjects) {
      if (!this.take(what)) continue;
      const key = keyedSubjects.includes(what) ? this.text(`which ${what}`) : undefined;
      this.expect('of');
      return { what, ...(key === undefined ? {} : { key }), of: this.target() };
    }
    if (this.take('answer', 'of', 'script')) {
      const script = this.text('the script');
      const given = this.given();
      return { what: 'answer', script, ...(given.length ? { arguments: given } : {}) };
    }
    return this.fail(`expected what to read: ${[...elementSubjects, ...pageSubjects].join(', ')}, answer of script`);
  }
  comparison(): Comparison {
    for (const words of comparisons) if (this.take(...words.split(' '))) return words;
    return this.fail(`expected a comparison here: ${comparisons.join(', ')}`);
  }
  compared(comparison: Comparison): Value {
    const column = this.column;
    if (comparison === 'is at least' || comparison === 'is at most') {
      const token = this.peek();
      if (token?.kind === 'number') return String(this.number('a number'));
      const value = this.value('a number');
      if (typeof value === 'string' && !Number.isFinite(Number(value.trim() || 'none')))
        throw new Fault(column, `“${value}” is no number`);
      return value;
    }
    const value = this.value('a value');
    if (typeof value === 'string' && (comparison === 'matches' || comparison === 'does not match')) {
      try {
        linearPattern(value);
      } catch (error) {
        throw new Fault(column, `this pattern cannot be read: ${(error as Error).message}`);
      }
    }
    return value;
  }
  /** `with …, …`; nothing where there is no `with`. */
  given(): Argument[] {
    if (!this.take('with')) return [];
    const list = [this.argument()];
    while (this.take(',')) list.push(this.argument());
    return list;
  }
  private argument(): Argument {
    if (this.isTarget()) return { target: this.target() };
    if (this.peek()?.kind === 'number') return { number: this.number('a number') };
    return { value: this.value('what the script is given') };
  }
}
