import { keysNamed } from '../evidence/keys.ts';
import type { Argument, Condition, Draw, Statement } from './drill.ts';
import { Fault, type Reader } from './reader.ts';

/** Waits without a limit of their own: what most suites set. */
const defaultLimitMs = 5000;
const defaultEveryMs = 100;
const mostConditions = 20;

const withArguments = (list: Argument[]): { arguments?: Argument[] } => (list.length ? { arguments: list } : {});

/** How each statement goes on after its first word. */
export const statements: Record<string, (r: Reader) => Statement> = {
  window: (r) => {
    const width = r.counted('the width', 1, 20_000);
    r.expect('x');
    return { do: 'window', width, height: r.counted('the height', 1, 20_000) };
  },
  implicit: (r) => ({ do: 'implicit', ms: r.duration() }),
  limit: (r) => {
    if (r.take('script')) return { do: 'limit', of: 'script', ms: r.duration() };
    r.expect('page', 'load');
    return { do: 'limit', of: 'page load', ms: r.duration() };
  },
  seed: (r) => ({ do: 'seed', number: r.counted('the seed', 0, 4_294_967_295) }),
  group: (r) => ({ do: 'group', words: r.text('what this part does') }),
  note: (r) => ({ do: 'note', words: r.text('the note') }),
  open: (r) => ({ do: 'open', address: r.value('the address') }),
  back: () => ({ do: 'back' }),
  forward: () => ({ do: 'forward' }),
  reload: () => ({ do: 'reload' }),
  find: (r) => {
    const name = r.name();
    r.expect('=');
    return { do: 'find', name, locator: r.locator() };
  },
  remember: (r) => {
    const name = r.name();
    r.expect('=');
    if (r.take('script'))
      return { do: 'remember script', name, script: r.text('the script'), ...withArguments(r.given()) };
    if (r.take('place')) {
      r.expect('of');
      return { do: 'remember place', name, target: r.target() };
    }
    return { do: 'remember', name, subject: r.subject() };
  },
  draw: (r) => {
    const name = r.name();
    r.expect('=');
    return { do: 'draw', name, from: draw(r) };
  },
  press: (r) => ({ do: 'press', target: r.target() }),
  click: (r) => {
    const how = (['twice', 'right', 'middle'] as const).find((word) => r.take(word));
    return { do: 'click', at: r.place(), ...(how ? { how } : {}), ...travel(r) };
  },
  hover: (r) => ({ do: 'hover', at: r.place(), ...travel(r) }),
  drag: (r) => {
    const from = r.place();
    if (r.take('to')) return { do: 'drag', from, to: r.place() };
    r.expect('by');
    return { do: 'drag by', from, ...distance(r) };
  },
  scroll: (r) => {
    if (r.take('to')) return { do: 'scroll to', target: r.target() };
    r.expect('by');
    return { do: 'scroll by', ...distance(r) };
  },
  keys: (r) => {
    const column = r.column;
    const keys = r.text('the keys, by name');
    const unknown = keysNamed(keys);
    if (typeof unknown !== 'string') throw new Fault(column, unknown.problem);
    return { do: 'keys', keys };
  },
  choose: (r) => {
    const text = r.value('which of its options');
    r.expect('in');
    return { do: 'choose', text, target: r.target() };
  },
  type: (r) => {
    if (r.take('secret')) {
      const secret = r.text('the name of the secret');
      r.expect('into');
      return { do: 'type secret', secret, target: r.target() };
    }
    const text = r.value('what to type');
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
    const column = r.column;
    const that = condition(r);
    if (holdsStill(that)) throw new Fault(column, 'whether something stays as it is takes time: write “wait until”');
    return { do: 'check', that };
  },
  wait: (r) => {
    r.expect('until');
    const until = condition(r);
    const limitMs = r.take('up', 'to') ? r.duration() : defaultLimitMs;
    const everyMs = r.take('every') ? r.duration() : defaultEveryMs;
    return { do: 'wait', until, limitMs, everyMs };
  },
  when: (r) => {
    const column = r.column;
    const that = condition(r);
    if (holdsStill(that)) throw new Fault(column, 'whether something stays as it is takes time: write “wait until”');
    r.expect('then');
    const first = r.peek();
    const name = first?.kind === 'word' ? first.value : '';
    if (!Object.hasOwn(statements, name) || givesNames.has(name))
      r.fail('expected a statement here that gives no name, such as: press css "…"');
    r.take(name);
    return { do: 'when', that, then: statements[name]!(r) };
  },
  pause: (r) => ({ do: 'pause', ms: r.duration() }),
  script: (r) => ({ do: 'script', script: r.text('the script'), ...withArguments(r.given()) }),
  switch: (r) => {
    r.expect('to');
    if (r.take('newest', 'window')) return { do: 'to newest window' };
    if (r.take('window', 'at')) return { do: 'to window at', address: r.value('a part of its address') };
    if (r.take('window')) return { do: 'to window', number: r.counted('which window', 1, 1000) };
    r.expect('frame');
    if (r.take('top')) return { do: 'to frame', where: 'top' };
    if (r.take('parent')) return { do: 'to frame', where: 'parent' };
    if (r.peek()?.kind === 'number') return { do: 'to frame', number: r.counted('which frame', 1, 1000) };
    return { do: 'to frame', target: r.target() };
  },
  new: (r) => {
    if (r.take('tab')) return { do: 'new window', what: 'tab' };
    r.expect('window');
    return { do: 'new window', what: 'window' };
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
  cookie: (r) => {
    const name = r.text('the name of the cookie');
    r.expect('is');
    return { do: 'cookie', name, value: r.value('what it holds') };
  },
  forget: (r) => {
    if (r.take('cookies')) return { do: 'forget cookies' };
    r.expect('cookie');
    return { do: 'forget cookies', name: r.text('the name of the cookie') };
  },
  screenshot: () => ({ do: 'screenshot' }),
};

/** A name is known to all lines below it, so its line is always played. */
const givesNames: ReadonlySet<string> = new Set(['find', 'remember', 'draw', 'when', 'window', 'seed']);

/** `over DURATION`: how long the pointer is on its way. */
const travel = (r: Reader): { overMs?: number } => (r.take('over') ? { overMs: r.duration() } : {});

function distance(r: Reader): { x: number; y: number } {
  const x = r.number('how far to the right');
  r.expect(',');
  return { x, y: r.number('how far down') };
}

function draw(r: Reader): Draw {
  for (const kind of ['word', 'name', 'email'] as const) if (r.take(kind)) return { kind };
  for (const kind of ['letters', 'digits'] as const)
    if (r.take(kind)) return { kind, length: r.counted('how many', 1, 200) };
  if (r.take('number')) {
    const from = r.number('the lowest');
    r.expect('to');
    const column = r.column;
    const to = r.number('the highest');
    if (to < from) throw new Fault(column, 'the highest comes after the lowest');
    return { kind: 'number', from, to };
  }
  r.expect('one', 'of');
  const texts = [r.text('a text')];
  while (r.take(',')) texts.push(r.text('another text'));
  return { kind: 'one of', texts };
}

const holdsStill = (that: Condition): boolean =>
  that.kind === 'still' || that.kind === 'quiet' || (that.kind === 'either' && that.of.some(holdsStill));

/** What is waited for, or checked. */
function condition(r: Reader): Condition {
  if (!r.take('either')) return oneCondition(r);
  const of = [oneCondition(r)];
  const column = r.column;
  while (r.take('or')) of.push(oneCondition(r));
  if (of.length < 2) r.fail('“either” has another end: write “or …”');
  if (of.length > mostConditions) throw new Fault(column, `at most ${mostConditions} ends`);
  return { kind: 'either', of };
}

function oneCondition(r: Reader): Condition {
  if (r.take('script')) {
    const script = r.text('the script');
    const given = withArguments(r.given());
    r.expect('answers');
    return { kind: 'script', script, ...given };
  }
  if (r.take('request')) {
    const request = r.text('its method and address, or a part of them');
    r.expect('is', 'answered');
    return { kind: 'answered', request };
  }
  if (r.take('console', 'says')) return { kind: 'said', text: r.text('what it says') };
  if (r.take('all', 'is', 'quiet')) {
    r.expect('for');
    return { kind: 'quiet', forMs: r.duration() };
  }
  if (r.isTarget()) {
    const target = r.target();
    for (const kind of ['there', 'gone', 'still'] as const) if (r.take('is', kind)) return { kind, target };
    return r.fail('expected “is there”, “is gone” or “is still” here; what an element holds is read: text of …');
  }
  const subject = r.subject();
  const comparison = r.comparison();
  return { kind: 'value', subject, comparison, value: r.compared(comparison) };
}
