import { literal } from '../patterns/literal.ts';
import type { Comparison, Condition, Subject, Target } from '../drill/drill.ts';
import type { StepAction } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';

/** What is to be waited for, as a drill asks it of a target; nothing where a drill cannot ask it. */
export type Asked = (target: Target | undefined) => Condition | undefined;

export const simply =
  (kind: 'there' | 'gone' | 'still'): Asked =>
  (target) =>
    target && { kind, target };

export const value =
  (what: Subject['what'], comparison: Comparison, wanted: string): Asked =>
  (of) =>
    of && { kind: 'value', subject: { what, of }, comparison, value: wanted };

/** An attribute without a value reads “true” through the protocol where it is one of yes and no. */
export const attribute =
  (key: string, comparison: 'is' | 'is not', wanted: string): Asked =>
  (of) => {
    if (!of) return undefined;
    const subject = { what: 'attribute', key, of } as const;
    return wanted === ''
      ? { kind: 'value', subject, comparison: comparison === 'is' ? 'is not' : 'is', value: '' }
      : { kind: 'value', subject, comparison, value: wanted };
  };

export const hidden: Asked = (target) =>
  target && {
    kind: 'either',
    of: [
      { kind: 'gone', target },
      { kind: 'value', subject: { what: 'displayed', of: target }, comparison: 'is', value: 'false' },
    ],
  };

/** Whether a press in the middle of an element would reach it. */
const reaches =
  'const [e] = arguments; const b = e.getBoundingClientRect(); const top = e.ownerDocument.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2); return e === top || e.contains(top)';

export const uncovered: Asked = (target) => target && { kind: 'script', script: reaches, arguments: [{ target }] };

/** What of a path with parts left out stands written: enough to know an address by. */
const written = (path: string): string | undefined => {
  const parts = path.split('#').sort((a, b) => b.length - a.length);
  return parts[0] && parts[0].length > 2 ? parts[0] : undefined;
};

export const answered =
  (key: string): Asked =>
  () => {
    const part = written(key.slice(key.indexOf('/')));
    return part === undefined ? undefined : { kind: 'answered', request: part };
  };

/** That the window shows a page, by its path with what varies left out as `#`. */
export const onPage = (path: string): Extract<Condition, { kind: 'value' }> => ({
  kind: 'value',
  subject: { what: 'address' },
  comparison: 'matches',
  value: `^[a-z-]+://[^/]+${literal(path).replaceAll('#', '[^/]+')}(?:[?#].*)?$`,
});

export const loaded =
  (path: string): Asked =>
  () => ({
    kind: 'script',
    script: `return new RegExp(${JSON.stringify(onPage(path).value)}).test(location.href) && self.document['readyState'] === 'complete'`,
  });

export const said =
  (text: string): Asked =>
  () => {
    const part = text
      .split(/\d+/)
      .sort((a, b) => b.length - a.length)[0]!
      .trim();
    return part.length > 3 ? { kind: 'said', text: part } : undefined;
  };

/** A drill hears what was answered or said since it last did something: what came before that it would wait for in vain. */
const onlySinceActs: ReadonlySet<Condition['kind']> = new Set(['answered', 'said']);
const acting: ReadonlySet<StepAction> = new Set([
  'open',
  'navigate',
  'press',
  'type',
  'clear',
  'keys',
  'dialog',
  'script',
]);

/** Whether a drill that looks at a moment would still hear what came before it. */
export function isHeard(asked: Condition, { steps }: Evidence, since: number, at: number): boolean {
  if (!onlySinceActs.has(asked.kind)) return true;
  const last = steps.findLast((step) => step.at < at && acting.has(step.data.action));
  return last === undefined || since >= last.at;
}
