import type { Drill } from '../../core/drill/drill.ts';
import type { Place } from '../place.ts';
import { ownCommandMs } from '../recording/forward.ts';
import type { Permits } from './permits.ts';
import { Player } from './play.ts';
import { beginSession } from './trial-session.ts';
import { Wire } from './wire.ts';

/** Plays copies of a drill again and again in browsers of their own, unrecorded, until they are ended. */
export function playBeside(
  place: Place,
  drill: Drill,
  copies: number,
  secrets: Readonly<Record<string, string>>,
  permits?: Permits,
): { end(): Promise<void> } {
  let over = false;
  const copy = async (number: number): Promise<void> => {
    const { end, session } = await beginSession(place);
    try {
      const wire = new Wire(end, session.sessionId);
      for (let n = number; !over; n += copies)
        await new Player(
          wire,
          secrets,
          () => over,
          () => undefined,
          { number: n, ...(permits ? { permits } : {}) },
        ).play(drill);
      await end.send('DELETE', `/session/${session.sessionId}`, {}, Buffer.alloc(0), ownCommandMs);
    } finally {
      await end.close();
    }
  };
  // A copy that fails, fails: it is there to be in the way.
  const playing = Array.from({ length: copies }, (_, i) => copy(i + 1).catch(() => undefined));
  return {
    end: async () => {
      over = true;
      await Promise.all(playing);
    },
  };
}
