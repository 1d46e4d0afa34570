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

/** Builds the pages when they are missing or older than what they are made from. */
export function ensureBuilt() {
  const page = join(root, 'dist', 'web', 'index.html');
  const sources = ['src/web', 'src/core', 'package-lock.json'].map((path) => newest(join(root, path)));
  if (existsSync(page) && statSync(page).mtimeMs > Math.max(...sources)) return;
  console.log('Building the pages …');
  const built = spawnSync(
    process.execPath,
    [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--logLevel', 'warn'],
    { cwd: root, stdio: 'inherit' },
  );
  if (built.status !== 0) process.exit(built.status ?? 1);
}

/** Installs, builds and runs a program of ours; signals and its exit code pass through. */
export async function serve(program) {
  await ensureAll(['chromium'], { required: false });
  ensureBuilt();
  const child = spawn(process.execPath, ['--import', 'tsx', program], { cwd: root, stdio: 'inherit' });
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
  process.exitCode = await new Promise((done) => child.on('exit', (code) => done(code ?? 1)));
}
