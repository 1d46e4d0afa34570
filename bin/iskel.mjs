#!/usr/bin/env node
// The command iskel. Runs what was built, or the sources where nothing was.
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const built = fileURLToPath(new URL('../dist/server/cli.mjs', import.meta.url));
if (existsSync(built)) await import(built);
else {
  const { register } = await import('tsx/esm/api');
  register();
  await import('../src/cli/main.ts');
}
