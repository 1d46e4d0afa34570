#!/usr/bin/env node
// The path to set where a runner is told which browser to start. Runs what was built, or the sources where nothing was.
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const built = fileURLToPath(new URL('../dist/server/stand-in.mjs', import.meta.url));
if (existsSync(built)) {
  process.argv[1] = built;
  await import(built);
} else {
  const { register } = await import('tsx/esm/api');
  register();
  await import('../src/cli/stand-in.ts');
}
