// npm test: installs what is missing, builds, then types, lint, and every test. The last line counts them.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt } from './serve.mjs';
import { ensureBrowser, ensurePackages, root } from './setup.mjs';

ensurePackages();
ensureBrowser({ required: true });
ensureBuilt();

const bin = (name) => join(root, 'node_modules', '.bin', name);
const run = (name, args) => spawnSync(bin(name), args, { cwd: root, stdio: 'inherit' }).status === 0;

const only = process.argv.slice(2);
let checksFailed = 0;
if (only.length === 0) {
  for (const [name, args] of [
    ['vue-tsc', ['--noEmit']],
    ['eslint', ['.']],
  ]) {
    console.log(`${name} …`);
    if (!run(name, args)) checksFailed++;
  }
}
const folder = mkdtempSync(join(tmpdir(), 'iskel-results-'));
const file = join(folder, 'results.json');
run('vitest', ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${file}`, ...only]);
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
