import { fileURLToPath } from 'node:url';

/** The program to name where a runner is told which browser to start. */
export const standInPath = fileURLToPath(new URL('../../../bin/iskel-browser.mjs', import.meta.url));
