import type { Drill } from '../../core/drill/drill.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { KeptAnswers } from '../stress/requests.ts';
import type { Place } from '../place.ts';
import type { RemoteEnd, NewSession } from '../remote-end.ts';
import { startLimitMs } from '../recording/forward.ts';
import { readSessionRequest } from '../recording/capabilities.ts';
import { parseJson } from '../recording/command-body.ts';
import type { Permits } from './permits.ts';
import type { Wire } from './wire.ts';
import type { AttemptRequest, EvidenceSink } from '../recording/sink.ts';

/** What a trial is played with. */
export interface TrialOptions {
  sink: EvidenceSink;
  request: AttemptRequest;
  secrets: Readonly<Record<string, string>>;
  stopped: () => boolean;
  /** What the drills may reach. */
  permits?: Permits;
  /** What it is put under. */
  stressors?: readonly Stressor[];
  /** Answers that attempts got, for requests that are to be given one. */
  kept?: KeptAnswers;
  /** What is typed into a file field instead of a path: files that are kept with the drill. */
  given?: (typed: string) => string | undefined;
  /** Played before it in the same context, and not recorded. */
  before?: Drill;
  /** Filled with how long each of its lines took, ms. */
  lineTimes?: number[];
}

/** Plays trials one after the other, each apart from the others. */
export interface TrialBrowser {
  /** Plays the drill once, recorded as one attempt. Gives the attempt's id. */
  trial(drill: Drill, options: TrialOptions): Promise<string>;
  close(): Promise<void>;
}

/** A session begun for trials, with the browser it lives in. */
export interface TrialSession {
  end: RemoteEnd;
  session: NewSession;
}

export type WindowSize = { width: number; height: number } | undefined;

/** Chromium of our own opens its windows in the size that is wanted: setting each takes as long as several commands. */
const launchedWith = ({ engine, remote }: Place, size: WindowSize): object =>
  size && engine === 'chromium' && !remote
    ? { alwaysMatch: { 'goog:chromeOptions': { args: [`--window-size=${size.width},${size.height}`] } } }
    : {};

/** Begins a session in a place. @throws Error in words */
export async function beginSession(place: Place, size?: WindowSize): Promise<TrialSession> {
  const end = await place.take();
  try {
    const { body } = readSessionRequest({ capabilities: launchedWith(place, size) }, place.launch, true);
    const headers = { 'content-type': 'application/json' };
    const answer = await end.send('POST', '/session', headers, Buffer.from(JSON.stringify(body)), startLimitMs);
    const session = parseJson(answer.body)?.value as (NewSession & { message?: string }) | undefined;
    if (answer.status !== 200 || !session)
      throw new Error(`no browser for the trials: ${session?.message ?? answer.status}`);
    return { end, session };
  } catch (error) {
    await end.close();
    throw error;
  }
}

/** Why a trial did not come to its end. */
export const whyBroken = (error: unknown, stopped: boolean): string =>
  stopped ? 'the series was stopped' : `the browser of this trial failed: ${(error as Error).message}`;

/** Gives a window its size, where it has another. @returns whether it opened in that size */
export async function resize(wire: Wire, size: WindowSize): Promise<boolean> {
  if (!size) return true;
  const now = await wire
    .send<{ width?: number; height?: number }>('GET', '/window/rect', {}, true)
    .catch(() => undefined);
  if (now?.width === size.width && now.height === size.height) return true;
  await wire.send('POST', '/window/rect', size, true).catch(() => undefined);
  return false;
}

/** The size of the window that a trial is put under, where it is. */
export const sizeUnder = (stressors: readonly Stressor[]): WindowSize => {
  const size = stressors.findLast(({ kind }) => kind === 'window');
  return size?.kind === 'window' ? { width: size.width, height: size.height } : undefined;
};
