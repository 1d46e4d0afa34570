import type { Context } from 'hono';
import type { CauseCode } from '../../src/core/causes/cause.ts';
import type { Tester } from './tester.ts';

/** What a handler may answer: a page, data with a status, or any response. */
export type Reply = string | { data: unknown; status?: 200 | 404 | 409 | 422 | 500 | 502 | 503 } | Response;
export type Handler = (visit: Meeting, c: Context) => Reply | Promise<Reply>;

/** What one visit meets: whether the fault hurts in it, and numbers drawn from its seed. */
export interface Meeting {
  hurts: boolean;
  /** A whole number between two, drawn from the visit's seed. */
  draw(low: number, high: number): number;
  /** Logs, on the site's own clock, that this visit parts from one that is not hurt; `afterMs` from now. */
  parted(afterMs?: number): void;
  /** What the site keeps of one mechanism beyond a visit. */
  kept: Map<string, unknown>;
  /** Address of the outside services, on an origin of their own. */
  outside: string;
}

/** One way for a test to fail, or to pass wrongly, by a real mechanism of a page, a service or a machine. */
export interface Mechanism {
  id: string;
  cause: CauseCode;
  /** Kept for measuring: no rule, weight or threshold may be made on it. */
  held?: boolean;
  suite: string;
  title: string;
  /** What a person would say went wrong. */
  about: string;
  /** It shows by passing: the outcome is passed, and means nothing. */
  passes?: boolean;
  /** Fails in every attempt there is; there are none that pass. */
  always?: boolean;
  /** Window size of the attempts that hurt, where that is the fault. */
  size?: string;
  /** Engine of the attempts that hurt, where that is the fault; all others run in Chromium. */
  engine?: 'webkit';
  /** Capabilities of the session. */
  capabilities?: Record<string, unknown>;
  /** Processes that take the machine's time while the attempt runs. */
  hogs?: number;
  /** The application changed with a commit, and fails since then. */
  commit?: boolean;
  site?: Record<string, Handler>;
  outside?: Record<string, Handler>;
  test(t: Tester): Promise<void>;
}

export const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
