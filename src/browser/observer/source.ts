import { readFileSync } from 'node:fs';
import type { Circumstances } from '../../core/evidence/event.ts';

/** The function expression a file is made of, without the comment above it. */
const expression = (name: string): string => {
  const text = readFileSync(new URL(name, import.meta.url), 'utf8');
  return text.slice(text.search(/^\(/m)).trim().replace(/;$/, '');
};

/** The observer as one function expression, as `script.addPreloadScript` takes it. */
export const observerSource = `() => (${expression('./in-page.js')})(${expression('./page-markup.js')}, ${expression('./held-values.js')}, ${expression('./circumstances.js')}, ${expression('./page-layout.js')}, ${expression('./nearness.js')}, ${expression('./scripted-events.js')}, ${expression('./secret-fields.js')})`;

/** A script that answers with what a page finds itself in, for browsers that are asked. */
export const circumstancesScript = `return (${expression('./circumstances.js')})();`;

/** Name of the isolated script world the observer lives in. */
export const observerWorld = 'iskel';

/** What runs in the page's own world, as `script.addPreloadScript` takes it: its one argument is a channel. */
export const suppressedSource = expression('./suppressed.js');

/** The channel that what is watched in pages is told on; the pages themselves cannot reach it. */
export const observerChannel = 'iskel';

/** What is told from the page's own world: a page may tell anything on it, so it is believed one kind of thing. */
export const pageChannel = 'iskel-page';

/** Both as the browser is asked to put them into every document. */
export const observerScripts = [
  { functionDeclaration: observerSource, sandbox: observerWorld },
  { functionDeclaration: suppressedSource, arguments: [{ type: 'channel', value: { channel: pageChannel } }] },
];

type Suppressed = Extract<ObserverRecord, { k: 'suppressed' }>;

const isText = (value: unknown, most: number): value is string => typeof value === 'string' && value.length <= most;

/** Of what came on the page's own channel: exceptions that handlers suppressed, as far as they are told rightly. */
export function toldByPage(records: unknown): Suppressed[] {
  if (!Array.isArray(records)) return [];
  return (records as unknown[]).slice(0, 100).flatMap((one): Suppressed[] => {
    const { k, t, x, s, r } = (one ?? {}) as Record<string, unknown>;
    if (k !== 'suppressed' || typeof t !== 'number' || !Number.isFinite(t) || !isText(x, 4000)) return [];
    return [{ k, t, x, ...(isText(s, 4000) ? { s } : {}), ...(isText(r, 4000) ? { r } : {}) }];
  });
}

/** What the observer tells, one record a fact. */
export type ObserverRecord =
  | {
      k: 'element';
      t: number;
      e: string;
      l: string;
      s: Record<string, unknown> & { count: number; node: number | null };
      c?: string[];
      /** It is a field that holds secrets. */
      h?: boolean;
    }
  | { k: 'mutations'; t: number; u: number; n: number }
  | { k: 'title' | 'here'; t: number; x: string }
  | {
      k: 'press';
      t: number;
      x: number;
      y: number;
      d: string;
      b: { x: number; y: number; width: number; height: number };
      /** In a frame: where its document's corner is in the window; null when it cannot be known. */
      f?: { x: number; y: number } | null;
    }
  | { k: 'view'; t: number; r: number }
  | { k: 'circumstances'; t: number; x: Circumstances }
  | { k: 'structure'; t: number; x: string; u: string; n: number }
  | { k: 'focus'; t: number; d: string }
  | { k: 'held'; t: number; d: string; v: string }
  | { k: 'shift'; t: number; n: number }
  /** What a secret field holds. It is learned, and never kept. `w`: what was told of it before and was only its beginning. */
  | { k: 'secret'; t: number; v: string; w?: string }
  /** An exception that a handler on the page suppressed: what it says, script and line, its stack. */
  | { k: 'suppressed'; t: number; x: string; s?: string; r?: string }
  | {
      /** A script dispatched an event. `s`: a selector that finds its element; `v`: what a field holds then, or the key. */
      k: 'scripted';
      t: number;
      e: 'click' | 'input' | 'change' | 'keydown';
      d: string;
      s: string;
      u: string;
      /** When its document began, and whether the page around it opened it. */
      n: number;
      o: boolean;
      v?: string;
      /** Whether somebody had acted on the page before. */
      a?: boolean;
    };
