import { numberHash } from '../evidence/hash.ts';
import type { ReportedOutcome } from '../evidence/attempt.ts';

/** One try of one test as a report tells it. */
export interface ReportCase {
  suite: string;
  title: string;
  file?: string;
  outcome: ReportedOutcome;
  message: string;
  stack: string;
  /** Which try of this test in this report, from 1. */
  number: number;
  durationMs?: number;
  /** Epoch ms; absent when the report has no times at all. */
  startedAt?: number;
  /** `summed` when only the suite's start was told and the cases before it were added up. */
  startTold?: 'told' | 'summed';
  /** The zone its times are written in, minutes east of UTC; null where they name none and were read as asked for. */
  zone?: number | null;
  /** What the test wrote, shortened to `mostOutput`. */
  output: string;
  errorOutput: string;
  /** Paths of files the report says belong to this try. */
  attachments: string[];
  properties: Record<string, string>;
  worker?: string;
  host?: string;
}

export interface Trouble {
  line: number;
  message: string;
}

/** Longest texts that are kept of one case; what is cut is marked. */
export const mostOutput = 256 * 1024;
export const mostMessage = 64 * 1024;

/** Cuts a text at a limit and says so. */
export function capped(text: string, most: number): string {
  return text.length <= most ? text : `${text.slice(0, most)}\n… (${text.length - most} characters more were not kept)`;
}

/** Numbers the tries of one test: the same test told again in the same place is its next try. */
export class Tries {
  // By hash: the texts themselves would be most of what a report of a hundred thousand cases weighs.
  private readonly seen = new Map<number, number>();
  next(key: string): number {
    const hash = numberHash(key);
    const number = (this.seen.get(hash) ?? 0) + 1;
    this.seen.set(hash, number);
    return number;
  }
}

const named = /\.(?:png|jpe?g|webp|webm|mkv|har|log|txt|jsonl?|vtt|zip|html?)\b/i;
const marker = /\[\[ATTACHMENT\|([^\][\n]{1,1000})\]\]/g;
const pathLike =
  /(?:^|[\s"'(=:])((?:[A-Za-z]:)?[\w@.~+-]{0,100}(?:[/\\][\w@.~+ -]{1,100}){1,12}\.[A-Za-z]{2,5}|[\w@~+-][\w@.~+-]{0,200}\.[A-Za-z]{2,5})(?=$|[\s"'),;])/gm;

/** Paths of evidence files named in what a test wrote: marked ones, and anything that ends like a picture, video, HAR or log. */
export function attachmentsIn(text: string): string[] {
  if (!text.includes('.')) return [];
  const found = new Set<string>();
  for (const [, path] of text.matchAll(marker)) found.add(path!.trim());
  if (named.test(text))
    for (const [, path] of text.slice(0, mostOutput).matchAll(pathLike)) if (named.test(path!)) found.add(path!);
  return [...found].slice(0, 100);
}
