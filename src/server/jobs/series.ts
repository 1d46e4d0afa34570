import type { Logger } from 'pino';
import { background, trouble } from '../../core/background.ts';
import { patiently } from '../store/patience.ts';
import { parseDrill } from '../../core/drill/parse.ts';
import type { Drill } from '../../core/drill/drill.ts';
import type { Place } from '../../browser/place.ts';
import type { Places } from '../../browser/places.ts';
import { trialLimitMs, trialsIn } from '../../browser/player/trials.ts';
import type { Changes } from '../changes.ts';
import type { Series } from '../../core/records.ts';
import type { Store } from '../store/store.ts';
import type { AnalysisJobs } from './analysis.ts';
import { RecordingSink } from '../ingest/recorded.ts';

/** A browser that dies or hangs in so many trials one after the other will not do better the next time. */
const mostRestarts = 3;
/** A command under way may end by itself for so long after a series was stopped; then its browser is ended. */
const stopGraceMs = 3000;

/** Plays series one after the other: trials that ran beside each other would starve each other. */
export class SeriesJobs {
  private readonly stopping = new Set<string>();
  /** Ends the browser of a series that is played. */
  private readonly playing = new Map<string, () => void>();
  private running: Promise<void> = Promise.resolve();
  private closed = false;
  /** Series that are played or wait for it. */
  waiting = 0;

  constructor(
    private readonly store: Store,
    private readonly analysis: AnalysisJobs,
    private readonly changes: Changes,
    private readonly places: Places,
    private readonly keepsBodies: boolean,
    private readonly log: Logger,
  ) {
    store.drills.stopUnfinished();
  }

  start(drillId: string, engine: string, trials: number): Series {
    const run = this.store.runs.named(`Trials of ${drillId}, ${new Date().toISOString()}`, Date.now(), {
      kind: 'trials',
    });
    const text = this.store.drills.get(drillId)?.text ?? '';
    const series = this.store.drills.addSeries(drillId, run, engine, trials, text);
    this.waiting++;
    this.running = this.running
      .then(() => this.play(series))
      .catch((error: Error) => {
        this.log.error({ series: series.id, problem: error.message }, 'a series failed');
        return patiently(() => this.end(series.id, 'failed', error.message));
      })
      .catch((error: unknown) => trouble('ending a series', error, series.id))
      .finally(() => this.waiting--);
    return series;
  }

  /** Stops after the command under way; what ran is kept. */
  stop(id: string): void {
    const state = this.store.drills.series(id)?.state;
    if (state !== 'waiting' && state !== 'running') return;
    this.stopping.add(id);
    if (state === 'waiting') this.end(id, 'stopped');
    // A browser that hangs in the middle of a command would never hear of it.
    else setTimeout(() => this.playing.get(id)?.(), stopGraceMs).unref();
  }

  private end(id: string, state: 'done' | 'stopped' | 'failed', problem?: string): void {
    this.store.drills.setSeries(id, state, problem ?? null);
    this.changes.tell({ type: 'series', id });
  }

  private async play(series: Series): Promise<void> {
    const stopped = (): boolean => this.closed || this.stopping.has(series.id);
    if (stopped()) return;
    const { drill } = parseDrill(series.text ?? '');
    if (!drill) throw new Error('the drill of this series can no longer be read');
    const place = this.places.named(series.engine);
    if (!place) throw new Error(this.places.noSuch(series.engine));
    this.store.drills.setSeries(series.id, 'running');
    this.changes.tell({ type: 'series', id: series.id });
    await this.trials(series, drill, place, stopped);
    this.end(series.id, stopped() ? 'stopped' : 'done');
  }

  private async trials(series: Series, drill: Drill, place: Place, stopped: () => boolean): Promise<void> {
    const test = { suite: 'trials', title: drill.title };
    const sink = new RecordingSink(this.store, this.analysis, this.changes, this.keepsBodies, {
      id: series.id,
      runId: series.runId,
      test,
    });
    const window = drill.lines.find((line) => line.do === 'window');
    const size = window && { width: window.width, height: window.height };
    const secrets = secretsFromEnvironment();
    let browser = await trialsIn(place, size);
    let restarts = 0;
    const limitMs = trialLimitMs(drill);
    const end = (): void => background('ending a browser of trials', browser.close(), series.id);
    this.playing.set(series.id, end);
    try {
      for (let number = 1; number <= series.trials && !stopped(); number++) {
        const watchdog = setTimeout(end, limitMs);
        try {
          await browser.trial(drill, {
            sink,
            request: { number, detail: 'standard', secrets: Object.values(secrets) },
            secrets,
            stopped,
          });
          restarts = 0;
        } catch (error) {
          if (stopped()) break;
          if (++restarts > mostRestarts) throw error;
          await browser.close();
          browser = await trialsIn(place, size);
        } finally {
          clearTimeout(watchdog);
        }
        this.changes.tell({ type: 'series', id: series.id });
      }
    } finally {
      this.playing.delete(series.id);
      await browser.close();
    }
  }

  async close(): Promise<void> {
    this.closed = true;
    await Promise.race([this.running, new Promise((done) => setTimeout(done, 3000))]);
  }
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
