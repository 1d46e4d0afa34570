import type { Drill } from '../../core/drill/drill.ts';
import { stressedDrill } from '../../core/trials/stressed-drill.ts';
import { allWords } from '../../core/trials/stressor.ts';
import type { Detail } from '../../core/records.ts';
import type { Place } from '../place.ts';
import { CommandRecorder } from '../recording/command-recorder.ts';
import { AttemptRecorder } from '../recording/recorder.ts';
import { debuggingDoor, environmentOf } from '../recording/session.ts';
import { Stress } from '../stress/stress.ts';
import { SessionWatch } from '../recording/session-watch.ts';
import { TrialEars } from './hears.ts';
import { Player } from './play.ts';
import {
  beginSession,
  resize,
  sizeUnder,
  whyBroken,
  type TrialBrowser,
  type TrialOptions,
  type TrialSession,
  type WindowSize,
} from './trial-session.ts';
import { Wire } from './wire.ts';

/** One browser in which trials are played one after the other, each in an isolated user context of its own. */
export class SharedBrowser implements TrialBrowser {
  /** Whether its windows open in the size that is wanted: the first one is asked, and that after one of another size. */
  private opensSized: boolean | undefined;
  /** The context of the trial before is put away while one for the next is made. */
  private tidied: Promise<unknown> | undefined;

  private constructor(
    private readonly begun: TrialSession,
    private readonly watch: SessionWatch,
    private readonly home: string,
    private readonly place: Place,
    private readonly size: WindowSize,
  ) {}

  static async start(place: Place, size: WindowSize, detail: Detail): Promise<SharedBrowser> {
    const begun = await beginSession(place, size);
    const { end, session } = begun;
    try {
      const watch = await SessionWatch.start({
        connect: (onEvent, onClose) => end.bidi(session, onEvent, onClose),
        abilities: place.abilities,
        door: debuggingDoor(place, session),
        detail,
        // A drill is never silent for long: bodies are got at the end of a trial.
        bodiesUnless: () => true,
        onClose: () => {},
      });
      const home = await new Wire(end, session.sessionId).send<string>('GET', '/window', {}, true);
      return new SharedBrowser(begun, watch, home, place, size);
    } catch (error) {
      await end.close();
      throw error;
    }
  }

  async trial(drill: Drill, options: TrialOptions): Promise<string> {
    const { sink, request, secrets, stopped, stressors = [], before, kept, given, permits, lineTimes } = options;
    const { watch } = this;
    const size = sizeUnder(stressors) ?? this.size;
    const { end, session } = this.begun;
    const { userContext } = await watch.send<{ userContext: string }>('browser.createUserContext', {});
    // What is told of the one before is none of this trial's.
    await this.tidied;
    const wire = new Wire(end, session.sessionId);
    const environment = { ...environmentOf(session.capabilities, request, undefined, this.place), ...size };
    const recorder = new AttemptRecorder(sink, request, environment);
    let interrupted: string | undefined;
    let stress: Stress | undefined;
    try {
      if (before) await this.playBefore(before, userContext, options);
      if (stressors.length) {
        const door = debuggingDoor(this.place, session);
        stress = await Stress.layOn(stressors, end, session, userContext, (host) => recorder.isOwn(host), {
          ...(door ? { door } : {}),
          ...(kept ? { kept } : {}),
        });
        recorder.noted(`played while ${allWords(stressors)}`);
      }
      watch.record(recorder);
      const { context } = await watch.send<{ context: string }>('browsingContext.create', {
        type: 'window',
        userContext,
      });
      await wire.send('POST', '/window', { handle: context }, true);
      await stress?.window(context);
      if (stressors.some(({ kind }) => kind === 'background'))
        await watch.send('browsingContext.activate', { context: this.home });
      if (!this.opensSized || size !== this.size) {
        const opened = await resize(wire, size);
        this.opensSized = opened && size === this.size;
      }
      const commands = new CommandRecorder(
        recorder,
        () => watch,
        (parent, name) => watch.frame(parent, name),
      );
      commands.begins(context);
      wire.notes = commands;
      const ears = new TrialEars(() => watch.underWay);
      recorder.listener = (event) => ears.hear(event);
      const player = new Player(wire, secrets, stopped, (...told) => recorder.checked(...told), {
        hears: ears,
        number: request.number,
        noted: (words) => recorder.noted(words),
        took: (ms) => lineTimes?.push(ms),
        ...(given ? { given } : {}),
        ...(permits ? { permits } : {}),
      });
      player.foreign.add(this.home);
      const told = await player.play(stressedDrill(drill, stressors, request.number));
      // The answers still under way at a failure often tell why it failed.
      if (told.status === 'failed') await watch.linger();
      await watch.flush(told.status === 'failed');
      recorder.outcome(told);
    } catch (error) {
      interrupted = whyBroken(error, stopped());
    } finally {
      await recorder.end(interrupted);
      watch.record(undefined);
      // A browser that does not let go of what it was put under is not given to the next trial.
      await stress?.undo().catch((error: Error) => (interrupted ??= whyBroken(error, false)));
      this.tidied = this.tidy(wire, userContext).catch(() => undefined);
    }
    if (interrupted) throw new Error(interrupted);
    return recorder.id;
  }

  /** Plays another drill in a window of its own in the same context: what it leaves there is found by the trial. */
  private async playBefore(
    before: Drill,
    userContext: string,
    { secrets, stopped, request, permits }: TrialOptions,
  ): Promise<void> {
    const { watch, home } = this;
    const wire = new Wire(this.begun.end, this.begun.session.sessionId);
    const window = { type: 'window', userContext };
    const { context } = await watch.send<{ context: string }>('browsingContext.create', window);
    await wire.send('POST', '/window', { handle: context }, true);
    const player = new Player(wire, secrets, stopped, () => undefined, {
      number: request.number,
      ...(permits ? { permits } : {}),
    });
    player.foreign.add(home);
    await player.play(before);
    await wire.restLimits();
    for (const { context: left } of await this.windowsOf(userContext))
      await watch.send('browsingContext.close', { context: left });
    await wire.send('POST', '/window', { handle: home }, true);
  }

  private async windowsOf(userContext: string): Promise<{ context: string }[]> {
    const { contexts } = await this.watch.send<{ contexts: { context: string; userContext: string }[] }>(
      'browsingContext.getTree',
      { maxDepth: 0 },
    );
    return contexts.filter((one) => one.userContext === userContext);
  }

  private async tidy(wire: Wire, userContext: string): Promise<void> {
    wire.notes = undefined;
    await wire.send('POST', '/window', { handle: this.home }, true);
    await wire.restLimits();
    await this.watch.send('browser.removeUserContext', { userContext });
  }

  async close(): Promise<void> {
    this.watch.close();
    await this.begun.end.close();
  }
}
