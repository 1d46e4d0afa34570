import { readFileSync } from 'node:fs';

const text = readFileSync(new URL('./in-page.js', import.meta.url), 'utf8');

/** The observer as one function expression, as `script.addPreloadScript` takes it. */
export const observerSource = text.slice(text.indexOf('() => {')).trim().replace(/;$/, '');

/** Name of the isolated script world the observer lives in. */
export const observerWorld = 'iskel';

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
  | { k: 'view'; t: number; w: number; h: number; r: number }
  | { k: 'structure'; t: number; x: string; u: string; n: number }
  | { k: 'focus'; t: number; d: string }
  | { k: 'held'; t: number; d: string; v: string }
  | { k: 'shift'; t: number; n: number };
