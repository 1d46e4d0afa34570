// Installs what a fresh machine lacks: the packages of package-lock.json and, where it may, Debian's Chromium.
// Plain Node without dependencies, because it runs before there are any.
import { spawnSync } from 'node:child_process';
import { accessSync, constants, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { delimiter, join, dirname } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
const browserPackages = ['chromium', 'chromium-driver', 'ffmpeg'];

/** The full path of a program on PATH, or undefined. */
export function which(program) {
  for (const folder of (process.env.PATH ?? '').split(delimiter)) {
    const path = join(folder, program);
    try {
      accessSync(path, constants.X_OK);
      if (statSync(path).isFile()) return path;
    } catch {
      // not here; the next folder may have it
    }
  }
  return undefined;
}

function run(program, args, options = {}) {
  const result = spawnSync(program, args, { cwd: root, stdio: 'inherit', ...options });
  return result.status === 0;
}

/** Installs the npm packages when they are missing or older than the lock file. */
export function ensurePackages() {
  const stamp = join(root, 'node_modules', '.iskel-installed');
  const lock = readFileSync(join(root, 'package-lock.json'), 'utf8');
  const wanted = String(lock.length) + ':' + hash(lock);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.log('Installing the packages of package-lock.json …');
  if (!run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])) {
    console.error('npm ci failed. Its message is above; once it is mended, run the same command again.');
    process.exit(1);
  }
  writeFileSync(stamp, wanted);
}

function hash(text) {
  let h = 0;
  for (let i = 0; i < text.length; i++) h = (Math.imul(h, 31) + text.charCodeAt(i)) | 0;
  return (h >>> 0).toString(16);
}

/** True when Chromium and its driver are on PATH. */
export const haveBrowser = () => Boolean(which('chromium') && which('chromedriver') && which('ffmpeg'));

/** Installs Debian's Chromium and driver when that is allowed here; otherwise says the command. */
export function ensureBrowser({ required }) {
  if (haveBrowser()) return true;
  const command = `apt-get install -y --no-install-recommends ${browserPackages.join(' ')}`;
  if (process.getuid?.() === 0 && which('apt-get')) {
    console.log(`Installing ${browserPackages.join(', ')} …`);
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
    run('apt-get', ['update', '-q'], quiet);
    run('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...browserPackages], quiet);
    if (haveBrowser()) return true;
  }
  const say = `Chromium, chromedriver or ffmpeg is not installed. To record, rerun and look into videos, run: sudo ${command}`;
  if (required) {
    console.error(say);
    process.exit(1);
  }
  console.log(say + '\nLooking at evidence works without them.');
  return false;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  ensurePackages();
  ensureBrowser({ required: false });
}
