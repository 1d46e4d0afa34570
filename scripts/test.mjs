// npm test: installs what is missing, builds, then types, lint, and every test. The last line counts them.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt } from './serve.mjs';
import { compilePackages, ensureBrowsers, fetchPackages, root } from './setup.mjs';

const browsers = ensureBrowsers(['chromium', 'firefox', 'webkit'], { required: true });
// One processor compiles while the other builds and checks.
const compiled = (await fetchPackages()) ? compilePackages() : undefined;
ensureBuilt();

const bin = (name) => join(root, 'node_modules', '.bin', name);
const run = (name, args) => {
  const child = spawn(bin(name), args, {
    cwd: root,
    stdio: 'inherit',
    // Servers of tests start as they were built just now, in a third of the time.
    env: { ...process.env, ISKEL_TEST_BUILT: '1' },
  });
  return new Promise((done) => {
    child.on('error', () => done(false));
    child.on('exit', (code) => done(code === 0));
  });
};

const only = process.argv.slice(2);
let checksFailed = 0;
if (only.length === 0) {
  console.log('vue-tsc, eslint …');
  const checks = await Promise.all([run('vue-tsc', ['--noEmit']), run('eslint', ['.'])]);
  checksFailed = checks.filter((passed) => !passed).length;
}
await Promise.all([compiled, browsers]);
const folder = mkdtempSync(join(tmpdir(), 'iskel-results-'));
const file = join(folder, 'results.json');
await run('vitest', ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${file}`, ...only]);
let passed = 0;
let failed = checksFailed;
try {
  const results = JSON.parse(readFileSync(file, 'utf8'));
  passed += results.numPassedTests;
  // A file that could not even be loaded counts as a failure of its own.
  failed +=
    results.numFailedTests +
    results.testResults.filter((one) => one.status === 'failed' && one.assertionResults.length === 0).length;
} catch {
  failed++;
}
rmSync(folder, { recursive: true, force: true });
if (passed === 0) failed++;
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
