import type { Place } from '../place.ts';
import { SessionEach } from './session-each.ts';
import { SharedBrowser } from './shared-browser.ts';
import type { TrialBrowser, WindowSize } from './trial-session.ts';

/** What plays trials in a place: one browser with a context for each, where it has such, else a session for each. */
export function trialsIn(place: Place, size: WindowSize): Promise<TrialBrowser> {
  const { contexts, socket } = place.abilities;
  return contexts && socket ? SharedBrowser.start(place, size) : Promise.resolve(new SessionEach(place, size));
}
