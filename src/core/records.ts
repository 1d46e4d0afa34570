import type { Plan } from './trials/search.ts';
import type { Stressor, StressorKind } from './trials/stressor.ts';
import type { CauseCode } from './causes/cause.ts';
import type { Verdict } from './families/verdict.ts';
import type { AttemptState, Environment, Outcome, TestName } from './evidence/attempt.ts';
import type { Failure } from './failures/failure.ts';
import type { Against } from './rules/against.ts';

/** What is kept of runs, attempts and families, as the store gives it and the screens show it. */

export interface Leading {
  cause: CauseCode;
  probability: number;
}

export interface AttemptLabels {
  tags?: string[];
  labels?: Record<string, string>;
  shard?: string;
  worker?: string;
  detail?: string;
  /** Set when the source told no times: starts and orders are then of the report, not of the clock. */
  untimed?: boolean;
  /** Set when its start was added up from the durations before it: the report in which. */
  summed?: string;
  /** The zone its source told its times in, minutes east of UTC; null where it named none and they were taken as UTC. */
  zone?: number | null;
  /** Set when its client declared secrets; without them nothing more of it is taken. */
  secrets?: boolean;
  /** Set when a report told later what became of it: which, why it is thought to be the same, what the attempt was called before. */
  told?: { by: string; why: string; was: { suite: string; title: string }; recording?: string };
  /** What the source said of itself and was not read otherwise. */
  properties?: Record<string, string>;
}

export interface Attempt {
  id: string;
  runId: string;
  test: TestName;
  number: number;
  outcome: Outcome;
  state: AttemptState;
  environment: Environment & { key: string };
  startedAt: number;
  durationMs: number;
  message: string;
  stack: string;
  interruptedBy: string | null;
  labels: AttemptLabels;
  failure: Failure | null;
  familyId: string | null;
  undetermined: boolean;
  seriesId: string | null;
  source: 'recorded' | 'imported' | 'streamed';
  /** The most probable cause, when one stands out. */
  leading: Leading | null;
  /** What of it is against the standing rules. */
  against: Against | null;
}

/** What goes with a run when it is removed. */
export interface RunWeight {
  attempts: number;
  tests: number;
  events: number;
  /** Pictures and other files that only it shows, and their bytes. */
  files: number;
  bytes: number;
  /** Families that have failures in no other run; those that somebody decided about stay, without them. */
  families: number;
  /** Drills that were made of its attempts: they stay. */
  drills: number;
}

/** What goes with a delivery when it is taken back. */
export interface DeliveryWeight {
  attempts: number;
  files: number;
  /** Attempts that were there before it and get back the outcome and times they had. */
  setBack: number;
}

/** An attempt that a report told of, which a recorded one might be. */
export interface MayBe {
  id: string;
  suite: string;
  title: string;
  number: number;
  outcome: Outcome;
  startedAt: number;
  run: string;
}

export interface Totals {
  tests: number;
  attempts: number;
  passed: number;
  failed: number;
  flaky: number;
  skipped: number;
  errored: number;
  interrupted: number;
  unreported: number;
  /** Of those that passed: how many are against the standing rules, by a policy that fails them. */
  against: number;
}

export interface Run {
  id: string;
  name: string;
  startedAt: number;
  commit: string | null;
  branch: string | null;
  totals: Totals;
  /** Start of its first attempt and end of its last; 0 without attempts. */
  from: number;
  until: number;
  environments: number;
  /** True while an attempt of it is being recorded. */
  recording: boolean;
}

export interface Family {
  id: string;
  sentence: string;
  firstAt: number;
  verdict: Verdict;
}

/** A family as one run shows it. */
export interface RunFamily {
  id: string;
  sentence: string;
  tests: number;
  environments: number;
  /** How many attempts it has in this run. */
  count: number;
  /** The first few of them in time order; `flaky` when the same test passed later in this run. */
  attempts: { id: string; outcome: Outcome; flaky: boolean }[];
  /** True when every attempt of it passed later in this run. */
  allFlaky: boolean;
  leading: Leading | null;
  /** First seen in this run, seen again after runs without it, or known from the run before. */
  since: 'new' | 'returned' | 'known';
  /** When it was last seen before this run, epoch ms. */
  lastSeen: number | null;
  runs: number;
  verdict: Verdict;
}

/** How much is recorded: commands alone, everything, or pictures at a higher rate besides. */
export const details = ['light', 'standard', 'full'] as const;
export type Detail = (typeof details)[number];

export type SeriesState = 'waiting' | 'running' | 'done' | 'stopped' | 'failed';

export interface Series {
  id: string;
  drillId: string;
  runId: string;
  engine: string;
  trials: number;
  state: SeriesState;
  problem: string | null;
  createdAt: number;
  /** The drill's text as it was played; null where it was not kept yet. */
  text: string | null;
  /** What all its trials are under. */
  stressors: Stressor[];
  /** It ends with its first failure. */
  untilFails: boolean;
  /** How much each trial leaves. */
  detail: Detail;
  /** Present when it looks for what provokes the failure. */
  search: SearchKept | null;
  /** Present when it proves a remedy: the drill before it is the series’ own. */
  proof: ProofKept | null;
}

/** The remedy that a series proves. */
export interface ProofKept {
  /** The remedy’s id, or that of a drill that people mended themselves. */
  remedy: string;
  cause: CauseCode | null;
  words: string;
  /** The drill with the remedy in it. */
  text: string;
}

/** A failure that is provoked, mended and proven in one go. */
export interface Mending {
  id: string;
  attemptId: string;
  drillId: string;
  engine: string;
  /** Trials with a remedy in each proof. */
  trials: number;
  /** The series that looks for what provokes it. */
  searchId: string;
  /** Proofs of one remedy after the other. */
  proofs: string[];
  state: 'running' | 'done' | 'stopped' | 'failed';
  problem: string | null;
  /** How it ended, in words. */
  ended: string | null;
  createdAt: number;
}

/** Tests that were run again, by their drills or by a test command of the team's own. */
export interface Again {
  id: string;
  /** Name of the command; null where drills are played. */
  command: string | null;
  /** The run that what the command does belongs to. */
  runId: string | null;
  tests: string[];
  times: number;
  untilFails: boolean;
  /** Series of the drills. */
  series: string[];
  /** How each time that the command was run ended. */
  ended: AgainEnded[];
  state: SeriesState;
  problem: string | null;
  createdAt: number;
}

/** How one run of a test command ended. */
export interface AgainEnded {
  /** The run its attempts belong to. */
  runId: string;
  /** Exit code; null where it was ended from outside. */
  code: number | null;
  signal: string | null;
  from: number;
  until: number;
  /** Attempts of it that failed, of all that were recorded or reported. */
  failed: number;
  attempts: number;
  /** What could not be taken in of its reports, in words. */
  problem?: string;
}

/** What a search may cost, and which stressors it may use: all, where nothing is said. */
export interface SearchOrder {
  budget: { trials: number; minutes: number };
  allow?: StressorKind[];
  forbid?: StressorKind[];
}

/** What a search was told, what it tries, and why it ended. */
export interface SearchKept extends SearchOrder {
  /** Drawn up when it begins. */
  plan?: Plan;
  /** Why it ended. */
  ended?: string;
}

export type FileKind = 'video' | 'picture' | 'log' | 'har' | 'trace' | 'cues' | 'markup' | 'text';

/** A file another runner left behind: where it was placed, why, and how its clock stands to the attempt's. */
export interface EvidenceFile {
  id: string;
  intakeId: string | null;
  runId: string;
  name: string;
  kind: FileKind;
  blob: string;
  size: number;
  facts: FileFacts;
  state: 'placed' | 'spread' | 'waiting' | 'put aside';
  attemptId: string | null;
  /** Probability that it belongs there. */
  score: number;
  reasons: string[];
  candidates: { attemptId: string; score: number; reasons: string[] }[];
  placedBy: '' | 'report' | 'evidence' | 'hand';
  offsetMs: number | null;
  /** The offset is right within ± this; null when that is not known. */
  offsetWithin: number | null;
  offsetHow: string;
}

export interface FileFacts {
  mime?: string;
  /** What it covers, epoch ms. */
  from?: number;
  until?: number;
  durationMs?: number;
  width?: number;
  height?: number;
  /** Frames of a video, entries of a log, exchanges of a HAR. */
  count?: number;
  addresses?: string[];
  /** What was not whole about it, in words. */
  problem?: string;
  /** Its times name no zone: which was taken, and why. Its events are kept as if it were UTC. */
  zone?: FileZone;
  /** Its clock was wrong by so much, and was set right: added to its times, ms. */
  skew?: { ms: number; within: number; words: string };
  /** Which of its times counts: what is in it, its name, or when it was last written. */
  told?: 'content' | 'name' | 'written';
  /** Why it waits in the tray, and what would settle it. */
  doubt?: { kind: DoubtKind; words: string; settles: string };
}

export interface FileZone {
  /** Minutes east of UTC. */
  minutes: number;
  /** `asked` when a person said it. */
  how: 'asked' | 'found' | 'doubtful';
  words: string;
  /** Also possible, likeliest first. */
  others?: number[];
}

/** Why a file is not placed. */
export type DoubtKind =
  | 'no-time'
  | 'no-times-in-report'
  | 'outside'
  | 'zone'
  | 'parallel'
  | 'between'
  | 'tries'
  | 'other-browser'
  | 'rivals'
  | 'little';

/** What an intake did, as its caller is told. */
/** What became of one file of a delivery. */
export type FileFate =
  | 'coming'
  | 'here'
  /** A report: its cases are attempts. */
  | 'report'
  | 'read'
  | 'placed'
  /** Laid on several attempts by its times. */
  | 'shared'
  /** In the tray. */
  | 'waits'
  | 'left out'
  /** The run has it already. */
  | 'known';

export interface DeliveredFile {
  name: string;
  fate: FileFate;
  says: string;
  attemptId?: string;
}

/** A delivery that is sent file by file. */
export interface DeliveryView {
  id: string;
  state: 'receiving' | 'waiting' | 'reading' | 'done' | 'failed';
  /** The first few of its files; none where its sender has not come back since Iskel was started. */
  names: string[];
  files: number;
  /** Bytes, and how many of them are here. */
  size: number;
  sent: number;
  begunAt: number;
  doing: string;
  done: number;
  of: number | null;
  /** How many files came to what. */
  fates: Partial<Record<FileFate, number>>;
  /** It is open here: what became of its files can be asked for. */
  here: boolean;
  result: IntakeResult | null;
  problem: string | null;
}

export interface IntakeResult {
  /** By which the delivery can be taken back as a whole. */
  intakeId?: string;
  runId: string | null;
  attempts: number;
  attached: number;
  unmatched: { name: string; why: string }[];
  problems: { name: string; line: number | null; message: string }[];
}

/** More attempts than any test has in a run: a number beyond is none. */
export const mostAttempts = 100_000;

export const isAttemptNumber = (value: unknown): value is number =>
  Number.isInteger(value) && (value as number) >= 1 && (value as number) <= mostAttempts;

/** Where sessions and trials can be had, and how it stands. */
export interface PlaceView {
  name: string;
  engine: string;
  version: string;
  /** A remote endpoint, as the settings file of this machine names it. */
  remote: boolean;
  ok: boolean;
  /** What is wrong and how to mend it, or that nothing is. */
  message: string;
  /** When it was looked at, epoch ms. */
  checkedAt?: number;
  sessions: { open: number; most: number };
  /** What cannot be had there, each in a sentence. */
  cannot: string[];
}
