import { endOf, type KnownElement, type Locator, type StepEvent } from '../evidence/event.ts';
import { nameAt } from '../evidence/lifelines.ts';
import { byScript, locatorKey, strategyName, wordsOfScript } from '../evidence/locator.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Evidence } from '../evidence/prepare.ts';
import {
  elementSubjects,
  pageSubjects,
  strategies,
  wireStrategies,
  type Argument,
  type DrillLocator,
  type Subject,
  type Target,
} from './drill.ts';

const readable: Record<string, Subject['what']> = {
  text: 'text',
  attribute: 'attribute',
  property: 'property',
  css: 'style',
  displayed: 'displayed',
  enabled: 'enabled',
  selected: 'selected',
  title: 'title',
  address: 'address',
};

/** A locator of the protocol, or of a script, as a drill writes it; nothing where its strategy is neither. */
export function drillLocator(locator: Locator): DrillLocator | undefined {
  const by = strategyName(locator.using);
  if (by !== byScript && !(wireStrategies as readonly string[]).includes(by)) return undefined;
  const within = locator.within && drillLocator(locator.within);
  if (locator.within && !within) return undefined;
  return {
    by,
    value: locator.value,
    ...(locator.index ? { match: locator.index + 1 } : {}),
    ...(within ? { within: { locator: within } } : {}),
  };
}

/** The elements of an attempt as a drill names them: held ones by a name, others by their locator. */
export class Elements {
  private readonly names = new Map<string, string>();
  private readonly usedNames = new Set<string>();

  private readonly users = new Map<string, StepEvent[]>();

  /** @param steps those that the drill is made of */
  constructor(
    private readonly evidence: Evidence,
    steps: readonly StepEvent[],
  ) {
    for (const step of steps) {
      const given = Object.values(step.data.given ?? {});
      for (const id of new Set([step.data.foundBy, ...given.map(({ foundBy }) => foundBy)])) {
        if (id === undefined) continue;
        const known = this.users.get(id);
        if (known) known.push(step);
        else this.users.set(id, [step]);
      }
    }
  }

  /** An element handed back within a command. */
  given(step: StepEvent, element: string): Target | undefined {
    const known = step.data.given?.[element] ?? this.found(element);
    if (!known) return undefined;
    const name = this.names.get(`${known.foundBy}/${known.locator.index ?? 0}`);
    if (name) return { name };
    const locator = drillLocator(known.locator);
    return locator && { locator };
  }

  /** The step that found an element, where the recording did not say it with the command. */
  private found(element: string): KnownElement | undefined {
    const step = this.evidence.steps.find(
      ({ data }) => data.action === 'find' && data.element === element && data.locator,
    );
    return step && { locator: step.data.locator!, foundBy: step.id };
  }

  /** Element arguments stay elements; what is no text and no number is read out of a text at the script's head. */
  private scriptOf(step: StepEvent): Pick<Subject, 'script' | 'arguments'> | undefined {
    const { input = '', command } = step.data;
    if (input.includes(maskMark) || /… \(\d+ characters\)$/.test(input)) return undefined;
    const list = (step.data.arguments ?? []) as unknown;
    if (!Array.isArray(list)) return undefined;
    let head = '';
    const given: Argument[] = [];
    for (const [i, one] of list.entries()) {
      if (typeof one === 'string') given.push({ value: one });
      else if (typeof one === 'number') given.push({ number: one });
      else {
        const id = one && typeof one === 'object' ? Object.values(one as object)[0] : undefined;
        const target = typeof id === 'string' ? this.given(step, id) : undefined;
        if (!target && JSON.stringify(one).includes('element-6066')) return undefined;
        given.push(target ? { target } : { value: JSON.stringify(one) });
        if (!target) head += `arguments[${i}] = JSON.parse(arguments[${i}]); `;
      }
    }
    const body =
      command === 'execute async script'
        ? `const given = [...arguments]; return new Promise((done) => (function () { ${input}\n}).apply(null, [...given, done]))`
        : input;
    return { script: head + body, ...(given.length ? { arguments: given } : {}) };
  }

  /** Steps that used what a step found, directly or handed to a script or an action. */
  usesOf(found: StepEvent): readonly StepEvent[] {
    return this.users.get(found.id) ?? [];
  }

  /** A name for what a step found, from here on. */
  hold(step: StepEvent, index: number): string {
    const name = this.nameFor(step);
    this.names.set(`${step.id}/${index}`, name);
    return name;
  }

  /** A name nothing else has. */
  free(base: string): string {
    let name = reserved.has(base) ? `the-${base}` : base;
    for (let n = 2; this.usedNames.has(name); n++) name = `${base}-${n}`;
    this.usedNames.add(name);
    return name;
  }

  private nameFor(step: StepEvent): string {
    const line = step.data.locator && this.evidence.lifelines.get(locatorKey(step.data.locator));
    const { using, value = '' } = step.data.locator ?? {};
    const own = using === byScript ? wordsOfScript(value) : value;
    const words = (line && nameAt(line, endOf(step))) || own || 'element';
    const base = slug(words) || slug(own) || 'element';
    return this.free(base);
  }

  target(step: StepEvent): Target | undefined {
    const name = this.names.get(`${step.data.foundBy}/${step.data.locator?.index ?? 0}`);
    if (name) return { name };
    const locator = step.data.locator && drillLocator(step.data.locator);
    return locator && { locator };
  }

  subject(step: StepEvent, anew = false): Subject | undefined {
    if (step.data.action === 'script') {
      const script = this.scriptOf(step);
      return script && { what: 'answer', ...script };
    }
    if (step.data.command === 'get alert text') return { what: 'dialog' };
    const [word = '', ...rest] = (step.data.subject ?? '').split(' ');
    const what = readable[word];
    if (!what) return undefined;
    if (what === 'title' || what === 'address') return { what };
    const locator = anew ? step.data.locator && drillLocator(step.data.locator) : undefined;
    const of = locator ? { locator } : this.target(step);
    return of && { what, ...(rest.length ? { key: rest.join(' ') } : {}), of };
  }
}

/** Words that mean something where a name may stand. */
const reserved = new Set([
  ...strategies.flatMap((by) => by.split(' ')),
  ...elementSubjects,
  ...pageSubjects,
  ...['script', 'secret', 'top', 'parent', 'twice', 'right', 'middle', 'either', 'request', 'console', 'all', 'answer'],
  ...['place', 'by', 'at', 'newest', 'window'],
]);

export const slug = (words: string): string =>
  words
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|(?<!-)-+$/g, '')
    .replace(/^(?=\d)/, 'e-')
    .split('-')
    .slice(0, 4)
    .join('-');
