// Stands in for a browser: starts the real one with the same arguments, hands its protocol through, and records beside it.
// Whatever becomes of the recording, the browser runs.
import { programOnPath, type StoodFor } from '../browser/devtools/real-browser.ts';
import { standForChromium } from './stand-in-chromium.ts';
import { standForFirefox } from './stand-in-firefox.ts';
import { args, say } from './stand-in-process.ts';

/** What only one of them is started with. */
const chromiums = /^--(?:user-data-dir|remote-debugging-pipe)\b/;
const firefoxes = /^--?(?:profile|P|no-remote|new-instance|marionette|foreground|wait-for-browser|remote-allow-hosts)$/;

const kind: StoodFor =
  !args.some((one) => chromiums.test(one)) && args.some((one) => firefoxes.test(one)) ? 'firefox' : 'chromium';
const program = programOnPath(kind);
if (program === undefined) {
  const [variable, name] = kind === 'firefox' ? ['ISKEL_FIREFOX', 'Firefox'] : ['ISKEL_CHROMIUM', 'Chromium'];
  say(`found no ${name} on the path; say where it is with ${variable}`);
  process.exit(127);
}
await (kind === 'firefox' ? standForFirefox(program) : standForChromium(program));
