import { readFileSync } from 'node:fs';
import type { Circumstances } from '../../core/evidence/event.ts';

/** The function expression a file is made of, without the comment above it. */
const expression = (name: string): string => {
  const text = readFileSync(new URL(name, import.meta.url), 'utf8');
  return text.slice(text.search(/^\(/m)).trim().replace(/;$/, '');
};

/** The observer as one function expression, as `script.addPreloadScript` takes it. */
export const observerSource = `() => (${expression('./in-page.js')})(${expression('./page-markup.js')}, ${expression('./held-values.js')}, ${expression('./circumstances.js')}, ${expression('./page-layout.js')}, ${expression('./nearness.js')}, ${expression('./scripted-events.js')})`;

/** A script that answers with what a page finds itself in, for browsers that are asked. */
export const circumstancesScript = `return (${expression('./circumstances.js')})();`;

/** Name of the isolated script world the observer lives in. */
export const observerWorld = 'iskel';

/** What runs in the page's own world, as `script.addPreloadScript` takes it: its one argument is a channel. */
export const suppressedSource = expression('./suppressed.js');

/** The channel that what is watched in pages is told on. */
export const observerChannel = 'iskel';

/** Both as the browser is asked to put them into every document. */
export const observerScripts = [
  { functionDeclaration: observerSource, sandbox: observerWorld },
  { functionDeclaration: suppressedSource, arguments: [{ type: 'channel', value: { channel: observerChannel } }] },
];

/** What the observer tells, one record a fact. */
export type ObserverRecord =
  | {
      k: 'element';
      t: number;
      e: string;
      l: string;
      s: Record<string, unknown> & { count: number; node: number | null };
      c?: string[];
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
    };
