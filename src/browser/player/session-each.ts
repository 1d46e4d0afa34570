import type { Drill } from '../../core/drill/drill.ts';
import { stressedDrill } from '../../core/trials/stressed-drill.ts';
import { allWords } from '../../core/trials/stressor.ts';
import type { Place } from '../place.ts';
import { clock } from '../recording/clock.ts';
import { ownCommandMs } from '../recording/forward.ts';
import { RecordedSession } from '../recording/session.ts';
import { Player } from './play.ts';
import {
  beginSession,
  resize,
  sizeUnder,
  whyBroken,
  type TrialBrowser,
  type TrialOptions,
  type WindowSize,
} from './trial-session.ts';
import { Wire } from './wire.ts';

/** Plays each trial in a session of its own, for browsers that have no isolated contexts. */
export class SessionEach implements TrialBrowser {
  constructor(
    private readonly place: Place,
    private readonly size: WindowSize,
  ) {}

  async trial(drill: Drill, options: TrialOptions): Promise<string> {
    const { sink, request, secrets, stopped, stressors = [], before, given, permits, lineTimes } = options;
    const { place } = this;
    const size = sizeUnder(stressors) ?? this.size;
    const startedAt = clock();
    const { end, session } = await beginSession(place, size);
    const recorded = await RecordedSession.start(end, place, session, request, sink, startedAt, size);
    const { recorder } = recorded;
    let interrupted: string | undefined;
    try {
      const wire = new Wire(end, session.sessionId);
      await resize(wire, size);
      if (before)
        await new Player(wire, secrets, stopped, () => undefined, {
          number: request.number,
          ...(permits ? { permits } : {}),
        }).play(before);
      if (stressors.length) recorder.noted(`played while ${allWords(stressors)}`);
      wire.notes = recorded.notes;
      const player = new Player(wire, secrets, stopped, (...told) => recorder.checked(...told), {
        number: request.number,
        noted: (words) => recorder.noted(words),
        took: (ms) => lineTimes?.push(ms),
        ...(given ? { given } : {}),
        ...(permits ? { permits } : {}),
      });
      recorded.outcome(await player.play(stressedDrill(drill, stressors, request.number)));
      await recorded.lastLook();
    } catch (error) {
      interrupted = whyBroken(error, stopped());
    } finally {
      await recorder.end(interrupted);
      await end
        .send('DELETE', `/session/${session.sessionId}`, {}, Buffer.alloc(0), ownCommandMs)
        .catch(() => undefined);
      await recorded.end(interrupted);
    }
    if (interrupted) throw new Error(interrupted);
    return recorder.id;
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}
