import { background } from '../../core/background.ts';
import { parseDrill } from '../../core/drill/parse.ts';
import type { Detail } from '../../core/records.ts';
import type { Drill } from '../../core/drill/drill.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Place } from '../../browser/place.ts';
import { playBeside } from '../../browser/player/beside.ts';
import type { Permits } from '../../browser/player/permits.ts';
import { trialLimitMs, trialsIn } from '../../browser/player/trials.ts';
import type { KeptAnswers } from '../../browser/stress/requests.ts';
import type { TrialBrowser } from '../../browser/player/trial-session.ts';
import type { RecordingSink } from '../ingest/recorded.ts';

/** A browser that dies or hangs in so many trials one after the other will not do better the next time. */
const mostRestarts = 3;

/** One trial to be played. */
export interface TrialOrder {
  number: number;
  stressors: readonly Stressor[];
  /** Another drill than that of the series. */
  drill?: Drill;
  /** Filled with how long each of its lines took, ms. */
  lineTimes?: number[];
}

/** What the trials of a series share. */
export interface Played {
  id: string;
  drill: Drill;
  detail: Detail;
  sink: RecordingSink;
  stopped: () => boolean;
  /** The text of another drill, for what is played before. */
  textOf: (drill: string) => string | undefined;
  /** Answers that attempts got. */
  kept: KeptAnswers;
  /** What it may reach. */
  permits: Permits;
  /** Files that are kept with the drill. */
  given: (typed: string) => string | undefined;
}

/** Plays the trials of a series in one place, one after the other, and replaces the browser when it is lost. */
export class TrialRunner {
  private browser: TrialBrowser | undefined;
  private restarts = 0;
  private readonly secrets = secretsFromEnvironment();

  constructor(
    readonly place: Place,
    private readonly played: Played,
  ) {}

  /**
   * @returns the attempt's id, or nothing when the trial was lost with its browser
   * @throws Error when no browser can be had there any more
   */
  async play({ number, stressors, drill = this.played.drill, lineTimes }: TrialOrder): Promise<string | undefined> {
    const { sink, stopped } = this.played;
    const { secrets } = this;
    this.browser ??= await this.begin();
    // A hung browser costs one trial: what is put on top of it takes its time, too.
    const watchdog = setTimeout(() => this.end(), trialLimitMs(drill) + extraMs(stressors));
    const beside = stressors.find((one) => one.kind === 'beside');
    const copies = beside && playBeside(this.place, drill, beside.copies, secrets, this.played.permits);
    try {
      const before = this.before(stressors);
      const id = await this.browser.trial(drill, {
        sink,
        request: { number, detail: this.played.detail, secrets: Object.values(secrets) },
        secrets,
        stopped,
        permits: this.played.permits,
        stressors,
        kept: this.played.kept,
        ...(this.place.remote ? {} : { given: this.played.given }),
        ...(before ? { before } : {}),
        ...(lineTimes ? { lineTimes } : {}),
      });
      this.restarts = 0;
      return id;
    } catch (error) {
      if (stopped()) return undefined;
      if (++this.restarts > mostRestarts) throw error;
      await this.close();
      return undefined;
    } finally {
      clearTimeout(watchdog);
      await copies?.end();
    }
  }

  private begin(): Promise<TrialBrowser> {
    const window = this.played.drill.lines.find((line) => line.do === 'window');
    const size = window && { width: window.width, height: window.height };
    return trialsIn(this.place, size, this.played.detail);
  }

  private before(stressors: readonly Stressor[]): Drill | undefined {
    const one = stressors.find(({ kind }) => kind === 'drill-before');
    if (one?.kind !== 'drill-before') return undefined;
    if (!one.drill) return this.played.drill;
    const { drill } = parseDrill(this.played.textOf(one.drill) ?? '');
    if (!drill) throw new Error(`the drill ${one.drill}, which was to be played before, cannot be read`);
    return drill;
  }

  /** Ends the browser in the middle of whatever it does. */
  end(): void {
    const { browser } = this;
    if (browser) background('ending a browser of trials', browser.close(), this.played.id);
  }

  async close(): Promise<void> {
    const { browser } = this;
    this.browser = undefined;
    await browser?.close();
  }
}

/** How much longer a trial may take under its stressors, ms. */
function extraMs(stressors: readonly Stressor[]): number {
  return stressors.reduce((sum, one) => {
    if (one.kind === 'slow-processor' || one.kind === 'pace' || one.kind === 'timers') return sum + 60_000;
    if (one.kind === 'drill-before' || one.kind === 'beside') return sum + 120_000;
    return sum + ('ms' in one ? 10 * (one.ms ?? 0) : 0);
  }, 0);
}

/** Secrets for drills come by name from the server's environment: `ISKEL_SECRET_PASSENGER` is `passenger`. */
function secretsFromEnvironment(): Record<string, string> {
  const entries = Object.entries(process.env).flatMap(([name, value]) =>
    name.startsWith('ISKEL_SECRET_') && value
      ? [[name.slice('ISKEL_SECRET_'.length).toLowerCase().replaceAll('_', '-'), value] as const]
      : [],
  );
  return Object.fromEntries(entries);
}
