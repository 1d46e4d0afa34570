import { accessSync, constants, realpathSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { standInPath } from './stand-in-path.ts';

/** What Chromium is called on the path. */
export const chromiumNames = ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable', 'chrome'];

/** The first program of its names on the path that is not the one that stands in for it. */
export function chromiumOnPath(path = process.env.PATH ?? ''): string | undefined {
  const ours = realpathSync(standInPath);
  for (const name of chromiumNames)
    for (const folder of path.split(delimiter)) {
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
