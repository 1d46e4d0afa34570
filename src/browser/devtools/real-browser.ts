import { accessSync, constants, realpathSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { standInPath } from './stand-in-path.ts';

/** What we stand in for. */
export const stoodFor = ['chromium', 'firefox'] as const;
export type StoodFor = (typeof stoodFor)[number];

/** What they are called on the path. */
const names = {
  chromium: ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable', 'chrome'],
  firefox: ['firefox-esr', 'firefox'],
};

/** The browser that the settings name, else the first program of its names on the path that is not ours. */
export function programOnPath(kind: StoodFor): string | undefined {
  const named = kind === 'firefox' ? process.env.ISKEL_FIREFOX : process.env.ISKEL_CHROMIUM;
  if (named) return named;
  const ours = realpathSync(standInPath);
  for (const name of names[kind])
    for (const folder of (process.env.PATH ?? '').split(delimiter)) {
      const program = join(folder, name);
      try {
        accessSync(program, constants.X_OK);
        if (realpathSync(program) !== ours) return program;
      } catch {
        // not there
      }
    }
  return undefined;
}
