import type { ConsoleData } from '../evidence/event.ts';
import type { Keeping } from '../keeping/keeping.ts';
import type { FrameRules } from '../failures/stack.ts';
import { usualThresholds, type Thresholds } from '../clues/thresholds.ts';
import type { RiskKind } from '../risks/risk.ts';
import type { HostRules } from './hosts.ts';
import { usualLimits, type Limits } from './limits.ts';

/** What a policy does to an attempt that passed and is against it: nothing, it says so, or it fails it. */
export const effects = ['off', 'tells', 'fails'] as const;
export type Effect = (typeof effects)[number];

export const consoleLevels = ['error', 'warning', 'info', 'debug'] as const satisfies ConsoleData['level'][];

/** How a request can have gone wrong: answered with an error of the client's or of the server's, or not answered at all. */
export const requestEnds = ['4xx', '5xx', 'failed'] as const;
export type RequestEnd = (typeof requestEnds)[number];

/** What a policy lets pass: known, said why, somebody's, and not for ever unless somebody says so. */
export interface Exemption {
  /** A regular expression that fits somewhere in what is let pass. */
  pattern: string;
  reason: string;
  owner: string;
  /** Attempts that began later are no longer let pass; epoch ms, null for no end. */
  until: number | null;
}

/** What the console of a page may not say while a test runs. */
export interface ConsolePolicy {
  effect: Effect;
  levels: ConsoleData['level'][];
  /** Exceptions that nothing caught count, whatever the levels. */
  uncaught: boolean;
  /** Exceptions that the page or the test swallowed count as well. */
  swallowed: boolean;
  /** Lines of the application's own scripts only, or of all. */
  from: 'own' | 'everywhere';
  /** Parts of addresses, of the page or of the script; where there are none, all count. */
  only: string[];
  exempt: Exemption[];
}

/** Which of the application's own requests may not go wrong though the test did not mind. */
export interface RequestPolicy {
  effect: Effect;
  ends: RequestEnd[];
  /** Parts of addresses; where there are none, all count. */
  only: string[];
  exempt: Exemption[];
}

/** What a test that passes may not do, since it will make it flake. */
export interface RiskPolicy {
  effect: Effect;
  kinds: RiskKind[];
  /** Parts of what is said of the risk, such as a step; where there are none, all count. */
  only: string[];
  exempt: Exemption[];
}

/** Standing rules of a workspace. */
export interface StandingRules {
  /** Texts in paths or names of one's own code and of libraries. */
  frames: FrameRules;
  /** Regular expressions; what they match is never stored. */
  masks: string[];
  /** Hosts that are the application's own, or outside, whatever the test opens. */
  hosts: HostRules;
  thresholds: Thresholds;
  limits: Limits;
  console: ConsolePolicy;
  requests: RequestPolicy;
  risks: RiskPolicy;
  keeping: Keeping;
}

/** The rules of a workspace in which nobody set any. */
export const noRules: StandingRules = {
  frames: { own: [], library: [] },
  masks: [],
  hosts: { own: [], outside: [] },
  thresholds: usualThresholds,
  limits: usualLimits,
  console: { effect: 'off', levels: ['error'], uncaught: true, swallowed: true, from: 'own', only: [], exempt: [] },
  requests: { effect: 'off', ends: ['5xx', 'failed'], only: [], exempt: [] },
  risks: { effect: 'off', kinds: ['fixed-sleep', 'place-measured-before'], only: [], exempt: [] },
  keeping: { terms: [], budgetGb: null },
};

/** The rules as they were at one time, who set them and what that changed. */
export interface RulesVersion {
  number: number;
  at: number;
  /** Who set them, as they called themselves; empty where they did not. */
  by: string;
  /** What it changed, in words. */
  changed: string[];
}
