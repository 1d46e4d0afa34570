import type { Drill, Statement } from '../../core/drill/drill.ts';
import type { Detail } from '../../core/records.ts';
import type { Place } from '../place.ts';
import { SessionEach } from './session-each.ts';
import { SharedBrowser } from './shared-browser.ts';
import type { TrialBrowser, WindowSize } from './trial-session.ts';

/** What plays trials in a place: one browser with a context for each, where it has such, else a session for each. */
export function trialsIn(place: Place, size: WindowSize, detail: Detail): Promise<TrialBrowser> {
  const { contexts, socket } = place.abilities;
  return contexts && socket ? SharedBrowser.start(place, size, detail) : Promise.resolve(new SessionEach(place, size));
}

/** Opening a page may take this long where the drill sets no limit of its own; every other command is far quicker. */
const pageMs = 30_000;
const slackMs = 60_000;

/** How long a trial may take before its browser is held to hang, ms: all its waits and pauses, its pages, and a minute. */
export function trialLimitMs({ lines }: Drill): number {
  let page = pageMs;
  let sum = slackMs;
  for (const outer of lines) {
    let line: Statement = outer;
    // What is done only when something is so may have to be done.
    while (line.do === 'when') line = line.then;
    if (line.do === 'limit') page = Math.max(page, line.ms);
    else if (line.do === 'pause') sum += line.ms;
    else if (line.do === 'wait') sum += line.limitMs + line.everyMs;
    else if (line.do === 'open' || line.do === 'reload' || line.do === 'press' || line.do === 'script') sum += page;
  }
  return sum;
}
