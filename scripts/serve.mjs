import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { ensureAll, root } from './setup.mjs';

/** Newest change below a folder, ms. */
function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))));
}

const parts = [
  {
    words: 'the pages',
    made: 'dist/web/index.html',
    from: ['src/web', 'src/core', 'vite.config.ts', 'package-lock.json'],
    config: 'vite.config.ts',
  },
  {
    words: 'the server',
    made: 'dist/server/main.mjs',
    from: ['src/server', 'src/browser', 'src/core', 'src/cli', 'demo', 'vite.server.config.ts', 'package-lock.json'],
    config: 'vite.server.config.ts',
  },
];

/** Builds the pages and the server when they are missing or older than what they are made from. */
export function ensureBuilt() {
  for (const { words, made, from, config } of parts) {
    const file = join(root, made);
    if (existsSync(file) && statSync(file).mtimeMs > Math.max(...from.map((path) => newest(join(root, path)))))
      continue;
    console.log(`Building ${words} …`);
    const built = spawnSync(
      process.execPath,
      [join(root, 'node_modules/vite/bin/vite.js'), 'build', '-c', config, '--logLevel', 'warn'],
      { cwd: root, stdio: 'inherit' },
    );
    if (built.status !== 0) process.exit(built.status ?? 1);
  }
}

/** Installs, builds and runs a built program of ours; signals and its exit code pass through. */
export async function serve(program) {
  await ensureAll(['chromium'], { required: false });
  ensureBuilt();
  const child = spawn(process.execPath, [join(root, 'dist', 'server', program)], { cwd: root, stdio: 'inherit' });
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
  process.exitCode = await new Promise((done) => child.on('exit', (code) => done(code ?? 1)));
}
