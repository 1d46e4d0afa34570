import type { Detail } from '../../core/records.ts';
import type { Environment, ReportedOutcome } from '../../core/evidence/attempt.ts';
import type { EvidenceEvent, Locator } from '../../core/evidence/event.ts';
import type { Masker, OwnPattern } from '../../core/evidence/masking.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';

/** What a test says about itself in the capability `iskel:attempt`; every part is optional. */
export interface AttemptRequest {
  run?: string;
  test?: { suite?: string; title?: string; file?: string; params?: Record<string, unknown> };
  number?: number;
  tags?: string[];
  labels?: Record<string, string>;
  commit?: string;
  branch?: string;
  shard?: string;
  worker?: string;
  secrets?: string[];
  /** The place to run in, by its name; without it the engine asked for, on this machine. */
  place?: string;
  detail?: Detail;
}

export interface ToldOutcome {
  status: ReportedOutcome;
  message: string;
  stack: string;
}

/** Where recorded evidence goes. The store implements it; recording knows nothing of databases. */
export interface EvidenceSink {
  /** A name for one more attempt. */
  newId(): string;
  /**
   * Any of these may throw, when the disk is full or the database busy; it is then done again later, with the same.
   * @param masker knows the declared secrets, which the request no longer carries
   */
  begin(id: string, request: AttemptRequest, environment: Environment, startedAt: number, masker: Masker): void;
  /** Patterns of the workspace's own that are masked besides what looks like a secret. */
  masks?(): OwnPattern[];
  /** Whose hosts are, and how much of an attempt is kept, where somebody said so. */
  standing?(): Pick<StandingRules, 'hosts' | 'limits'> | undefined;
  /** Locators that the attempt’s test used in attempts before it, in their order. */
  usedBefore?(attempt: string): readonly Locator[];
  /** All of them are written, or none. @returns how many bytes they take */
  write(attempt: string, events: readonly EvidenceEvent[]): number;
  /** Whether what goes with requests and answers is kept; it is unless this says no. */
  readonly keepsBodies?: boolean;
  /** Services to which a trace context is sent along: scheme, host and port. */
  readonly traced?: readonly string[];
  /** Keeps a picture or another blob; gives its name. */
  keep(bytes: Buffer, mime: string): Promise<string>;
  /** Tells the window's size once it is known. */
  sized(attempt: string, width: number, height: number): void;
  /** Values of secret fields, by which what is told later can be masked; they are kept in no readable form. */
  learned?(secrets: readonly string[]): void;
  /**
   * Writes events anew in which such a text stands: it became known as a secret when they were written already.
   * @param clean gives an event without any secret
   */
  maskAgain?(attempt: string, texts: readonly string[], clean: (event: EvidenceEvent) => EvidenceEvent): Promise<void>;
  outcome(attempt: string, told: ToldOutcome): void;
  /** Names the first opened address for an attempt that was given no test name. */
  opened(attempt: string, address: string): void;
  /** The recording is over; `interrupted` says why when it did not end by itself. */
  end(attempt: string, durationMs: number, interrupted?: string): void;
}
