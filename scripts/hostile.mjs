// npm run hostile: the long run of tests/standing. 20,000 hostile requests, 100 kills, 20 copies, 500 hostile deliveries, a page
// that knows everything for ten minutes in each engine; a seed tries others.
// Use: npm run hostile [seed]
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt } from './serve.mjs';
import { ensureAll, root } from './setup.mjs';

await ensureAll(['chromium', 'firefox', 'webkit'], { required: true });
ensureBuilt();
const env = {
  ...process.env,
  ISKEL_HOSTILE: '20000',
  ISKEL_KILLS: '100',
  ISKEL_COPIES: '20',
  ISKEL_PACKS: '500',
  ISKEL_HARM_MINUTES: '10',
};
if (process.argv[2]) env.ISKEL_SEED = process.argv[2];
const child = spawn(join(root, 'node_modules', '.bin', 'vitest'), ['run', 'tests/standing', 'tests/places.test.ts'], {
  cwd: root,
  env,
  stdio: 'inherit',
});
process.exitCode = await new Promise((done) => child.on('exit', (code) => done(code ?? 1)));
