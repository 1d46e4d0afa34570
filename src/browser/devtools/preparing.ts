import { parseJson } from '../recording/command-body.ts';
import { elementKey } from '../recording/commands.ts';
import type { ClientStep } from './client-step.ts';

/** A press or typing that follows by then is what was prepared, ms; what is told later than that helps nobody who watches. */
const mostMs = 3000;
const looks = /^\/element\/([^/]+)\/rect$/;
const uses = /^\/element\/([^/]+)\/(?:click|value)$/;
const focuses = /\.focus\(/;

/** Whether a source gives an element the focus. */
export const givesFocus = (source: string): boolean => focuses.test(source);

/** The element that a step only prepares: it looks where it is, or gives it the focus. */
function preparedBy({ path, body }: ClientStep): string | undefined {
  const element = looks.exec(path)?.[1];
  if (element !== undefined || path !== '/execute/sync' || !givesFocus(body.toString('latin1'))) return element;
  const [own, ...more] = (parseJson(body)?.args ?? []) as (Record<string, unknown> | null)[];
  const name = own?.[elementKey];
  return typeof name === 'string' && more.length === 0 ? name : undefined;
}

/**
 * What a client does with an element right before it presses or types is part of that: it looks where it is and what lies
 * there, gives it the focus. Such steps of one page wait for what comes next.
 */
export class Preparing {
  private waiting: ClientStep[] = [];
  private element: string | undefined;

  constructor(private readonly done: (step: ClientStep) => void) {}

  take(step: ClientStep): void {
    const element = preparedBy(step);
    const [first] = this.waiting;
    if (element !== undefined) {
      if (first && (element !== this.element || step.until - first.at > mostMs)) this.over();
      this.element = element;
      this.waiting.push(step);
      return;
    }
    if (first && uses.exec(step.path)?.[1] === this.element) {
      this.waiting = [];
      this.done({ ...step, at: first.at });
      return;
    }
    this.over();
    this.done(step);
  }

  /** Nothing followed. */
  over(): void {
    const { waiting } = this;
    this.waiting = [];
    for (const one of waiting) this.done(one);
  }

  /** Time passes. */
  passes(now: number): void {
    if (this.waiting.length && now - this.waiting[0]!.at > mostMs) this.over();
  }
}
