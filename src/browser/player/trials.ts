import type { Drill } from '../../core/drill/drill.ts';
import type { DriverPool } from '../driver-pool.ts';
import type { Driver } from '../driver-process.ts';
import { forward, ownCommandMs, startLimitMs } from '../recording/forward.ts';
import { readSessionRequest } from '../recording/capabilities.ts';
import { clock } from '../recording/clock.ts';
import { CommandRecorder } from '../recording/command-recorder.ts';
import { AttemptRecorder } from '../recording/recorder.ts';
import { parseJson } from '../recording/command-body.ts';
import { environmentOf, type NewSession } from '../recording/session.ts';
import { SessionWatch } from '../recording/session-watch.ts';
import type { AttemptRequest, EvidenceSink } from '../recording/sink.ts';
import { Player } from './play.ts';
import { Wire } from './wire.ts';

/** One browser in which trials are played one after the other, each in an isolated user context of its own. */
export class TrialBrowser {
  private constructor(
    private readonly driver: Driver,
    private readonly session: NewSession,
    private readonly watch: SessionWatch,
    private readonly home: string,
  ) {}

  static async start(pool: DriverPool, size?: { width: number; height: number }): Promise<TrialBrowser> {
    const driver = await pool.take();
    try {
      const args = size ? [`--window-size=${size.width},${size.height}`] : [];
      const { body } = readSessionRequest(
        { capabilities: { alwaysMatch: { browserName: 'chrome', 'goog:chromeOptions': { args } } } },
        pool.engine,
        true,
      );
      const answer = await forward(
        driver,
        'POST',
        '/session',
        { 'content-type': 'application/json' },
        Buffer.from(JSON.stringify(body)),
        startLimitMs,
      );
      const value = parseJson(answer.body)?.value as (NewSession & { message?: string }) | undefined;
      if (answer.status !== 200 || !value)
        throw new Error(`no browser for the trials: ${value?.message ?? answer.status}`);
      const options = value.capabilities['goog:chromeOptions'] as { debuggerAddress?: string };
      const watch = await SessionWatch.start({
        webSocketUrl: String(value.capabilities.webSocketUrl),
        debuggerAddress: options.debuggerAddress,
        detail: 'standard',
        // A drill is never silent for long: bodies are got at the end of a trial.
        bodiesUnless: () => true,
        onClose: () => {},
      });
      const handle = await forward(
        driver,
        'GET',
        `/session/${value.sessionId}/window`,
        {},
        Buffer.alloc(0),
        ownCommandMs,
      );
      return new TrialBrowser(driver, value, watch, String(parseJson(handle.body)?.value));
    } catch (error) {
      await driver.close();
      throw error;
    }
  }

  get alive(): boolean {
    return this.driver.alive;
  }

  /** Plays the drill once, recorded as one attempt. Gives the attempt's id. */
  async trial(
    drill: Drill,
    options: {
      sink: EvidenceSink;
      request: AttemptRequest;
      secrets: Readonly<Record<string, string>>;
      stopped: () => boolean;
    },
  ): Promise<string> {
    const { watch } = this;
    const { userContext } = await watch.send<{ userContext: string }>('browser.createUserContext', {});
    const wire = new Wire(this.driver, this.session.sessionId);
    const window = drill.lines.find((line) => line.do === 'window');
    const environment = {
      ...environmentOf(this.session.capabilities, options.request),
      ...(window ? { width: window.width, height: window.height } : {}),
    };
    const recorder = new AttemptRecorder(options.sink, options.request, environment);
    let interrupted: string | undefined;
    try {
      watch.record(recorder);
      const { context } = await watch.send<{ context: string }>('browsingContext.create', {
        type: 'window',
        userContext,
      });
      await wire.send('POST', '/window', { handle: context }, true);
      const commands = new CommandRecorder(
        recorder,
        () => watch,
        (parent, name) => watch.frame(parent, name),
      );
      commands.begins(context);
      wire.commands = commands;
      const player = new Player(wire, options.secrets, options.stopped, (label, ok, expected, actual) =>
        recorder.add({
          lane: 'note',
          kind: 'check',
          at: clock(),
          clock: 'recorder',
          data: { label, ok, expected, actual },
        }),
      );
      player.foreign.add(this.home);
      const told = await player.play(drill);
      // The answers still under way at a failure often tell why it failed.
      if (told.status === 'failed') await watch.linger();
      await watch.flush(told.status === 'failed');
      recorder.outcome(told);
    } catch (error) {
      interrupted = `the browser of this trial failed: ${(error as Error).message}`;
    } finally {
      await recorder.end(interrupted);
      watch.record(undefined);
      await this.tidy(wire, userContext).catch(() => {});
    }
    if (interrupted) throw new Error(interrupted);
    return recorder.id;
  }

  private async tidy(wire: Wire, userContext: string): Promise<void> {
    wire.commands = undefined;
    await wire.send('POST', '/window', { handle: this.home }, true);
    await wire.send('POST', '/timeouts', { implicit: 0, pageLoad: 300_000, script: 30_000 }, true);
    await this.watch.send('browser.removeUserContext', { userContext });
  }

  async close(): Promise<void> {
    this.watch.close();
    await this.driver.close();
  }
}
