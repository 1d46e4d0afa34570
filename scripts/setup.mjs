// Installs what a fresh machine lacks: the packages of package-lock.json and, where it may, browsers from Debian.
// Plain Node without dependencies, because it runs before there are any.
import { spawn } from 'node:child_process';
import { accessSync, constants, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { delimiter, join, dirname } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** What is installed from Debian, how it is known to be there, and what it is for. */
const browsers = {
  chromium: {
    packages: ['chromium', 'chromium-driver', 'ffmpeg'],
    programs: ['chromium', 'chromedriver', 'ffmpeg'],
    use: 'record, rerun and look into videos',
  },
  firefox: {
    packages: ['firefox-esr'],
    programs: ['firefox-esr'],
    use: 'record tests in Firefox',
  },
  webkit: {
    packages: ['webkit2gtk-driver', 'xvfb'],
    programs: ['WebKitWebDriver', 'Xvfb'],
    use: 'record tests in WebKit',
  },
};

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
  const child = spawn(program, args, { cwd: root, stdio: 'inherit', ...options });
  return new Promise((done) => {
    child.on('error', () => done(false));
    child.on('exit', (code) => done(code === 0));
  });
}

const stamp = join(root, 'node_modules', '.iskel-installed');

/** What the lock file asks for, in short. */
function wantedPackages() {
  const lock = readFileSync(join(root, 'package-lock.json'), 'utf8');
  return `${lock.length}:${hash(lock)}`;
}

async function npm(args) {
  // What has to be compiled is, on all processors.
  const env = { ...process.env, JOBS: 'max' };
  if (await run('npm', [...args, '--loglevel=error'], { env })) return;
  console.error(`npm ${args[0]} failed. Its message is above; once it is mended, run the same command again.`);
  process.exit(1);
}

/**
 * Fetches the npm packages when they are missing or older than the lock file, without compiling any: who needs the
 * database waits for what `compilePackages` gives, everybody else may begin.
 * @returns whether something was fetched
 */
export async function fetchPackages() {
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wantedPackages()) return false;
  console.log('Installing the packages of package-lock.json …');
  await npm(['ci', '--no-audit', '--no-fund', '--ignore-scripts']);
  return true;
}

/** Runs what fetched packages do when they are installed; one of them compiles for a minute or two on one processor. */
export async function compilePackages() {
  await npm(['rebuild']);
  writeFileSync(stamp, wantedPackages());
}

/** Installs the npm packages when they are missing or older than the lock file. */
async function ensurePackages() {
  if (await fetchPackages()) await compilePackages();
}

function hash(text) {
  let h = 0;
  for (let i = 0; i < text.length; i++) h = (Math.imul(h, 31) + text.charCodeAt(i)) | 0;
  return (h >>> 0).toString(16);
}

const missing = (names) => names.filter((name) => !browsers[name].programs.every((program) => which(program)));
const install = (names) =>
  `apt-get install -y --no-install-recommends ${names.flatMap((name) => browsers[name].packages).join(' ')}`;

/** Installs browsers from Debian when that is allowed here; otherwise says the command. */
export async function ensureBrowsers(names, { required }) {
  const wanted = missing(names);
  if (wanted.length === 0) return;
  if (process.getuid?.() === 0 && which('apt-get')) {
    console.log(`Installing ${wanted.flatMap((name) => browsers[name].packages).join(', ')} …`);
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
    await run('apt-get', ['update', '-q'], quiet);
    const [program, ...args] = install(wanted).split(' ');
    await run(program, args, quiet);
  }
  for (const name of missing(wanted)) {
    const { programs, use } = browsers[name];
    console.error(`${programs.join(', ')}: not all of it is installed. To ${use}, run: sudo ${install([name])}`);
  }
  if (missing(wanted).length === 0) return;
  if (required) process.exit(1);
  console.log('Looking at evidence works without them.');
}

/** Packages and browsers at once: one compiles while the other downloads. */
export const ensureAll = (names, how) => Promise.all([ensurePackages(), ensureBrowsers(names, how)]);

if (process.argv[1] === fileURLToPath(import.meta.url))
  await ensureAll(['chromium', 'firefox', 'webkit'], { required: false });
