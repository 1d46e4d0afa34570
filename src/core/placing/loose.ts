import type { Environment } from '../evidence/attempt.ts';

/** An attempt a file may belong to. Times are epoch ms. */
export interface Place {
  id: string;
  suite: string;
  title: string;
  number: number;
  environment: Pick<Environment, 'browser' | 'width' | 'height' | 'place'>;
  from: number;
  until: number;
  /** False when the report told no times: then times say nothing. */
  timed: boolean;
  /** How far its times may be off, ms: 0 for told ones, more for those added up from durations. */
  slack?: number;
  failed: boolean;
  /** Paths the report names for it. */
  attachments: readonly string[];
  /** Addresses its messages and logs speak of, without query. */
  addresses: readonly string[];
  /** The worker that played it, as the report names it. */
  worker?: string;
  /** The folder its report came in. */
  folder?: string;
}

/** A span of time that a file tells of itself, epoch ms; a moment begins and ends at once. */
export interface ToldSpan {
  from: number;
  until: number;
  /** Its name or its content tells it; else only when it was last written does, which copying changes. */
  firm: boolean;
  /** What its times cut off, ms. */
  resolutionMs: number;
}

/** A file whose attempt is looked for. */
export interface Loose {
  id: string;
  path: string;
  /** `lasting` things (videos, HARs, traces) cover an attempt; a picture is a moment of it. */
  kind: 'lasting' | 'moment';
  /** It is to be looked at: a picture or a video. */
  shown?: boolean;
  /** An attempt may have many of its kind. */
  alone?: boolean;
  /** A clock of its own wrote its times, which may be wrong by a minute or so. */
  ownClock?: boolean;
  /** What it covers, in each way its times may be meant. */
  spans?: readonly ToldSpan[];
  durationMs?: number;
  width?: number;
  height?: number;
  addresses?: readonly string[];
  /** Places whose test or failure it speaks of in words. */
  speaksOf?: ReadonlyMap<string, 'test' | 'failure'>;
}
