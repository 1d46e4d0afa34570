import type { RiskKind } from './risk.ts';
import type { Outlook } from './outlook.ts';

/** One test of the list of what will flake next. */
export interface OutlookRow extends Outlook {
  test: { id: string; suite: string; title: string };
  /** Its attempts of the last weeks at most so many, and how many of them failed. */
  lately: { ran: number; failed: number };
}

/** The list, the likeliest first, or a part of it. */
export interface OutlookList {
  tests: OutlookRow[];
  /** How many there are with what was asked for, and how many tests were looked at in all. */
  total: number;
  looked: number;
  /** How many of the listed have a risk of each kind. */
  kinds: { kind: RiskKind; tests: number; about: string }[];
  suites: string[];
}
