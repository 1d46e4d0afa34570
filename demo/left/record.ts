// Runs the ferry suite by another runner and packs what it leaves behind. Run: npm run record-left
import { spawn, spawnSync } from 'node:child_process';
import {
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startRecorder } from '../recorder.ts';
import { demoPort, faultyTests } from '../faults.ts';
import { startFerrySite } from '../site/site.ts';

const here = fileURLToPath(new URL('./', import.meta.url));
const data = mkdtempSync(join(tmpdir(), 'iskel-left-'));
const out = join(data, 'ferry-evening');
const server = await startRecorder(join(data, 'recorded'), true);
const site = await startFerrySite(demoPort);

for (const size of ['1280,800', '1024,768']) {
  // The faults show in one size more than in the other, as they like to.
  for (const { fault, path } of faultyTests) site.visits.stand(path, [fault], size === '1280,800' ? 1 : 0);
  const folder = join(out, `chromium-${size.replace(',', 'x')}`);
  mkdirSync(folder, { recursive: true });
  const env = {
    ...process.env,
    FERRY_REMOTE: `${server.address}/wd`,
    FERRY_SITE: site.address,
    FERRY_SIZE: size,
    FERRY_OUT: folder,
  };
  const args = [
    'node_modules/vitest/vitest.mjs',
    'run',
    '--config',
    'demo/left/vitest.config.ts',
    '--reporter=junit',
    `--outputFile=${join(folder, 'results.xml')}`,
  ];
  await new Promise((done) => spawn(process.execPath, args, { env, stdio: 'inherit' }).on('exit', done));
}
// What every such folder also has: something of another program, and a video whose session is not in any report.
writeFileSync(join(out, 'core.4711'), Buffer.from([0, 1, 2, 3, 0, 0, 9, 9]));
spawnSync('ffmpeg', [
  '-v',
  'error',
  '-f',
  'lavfi',
  '-i',
  'color=c=0x335566:s=640x400:d=9:r=5',
  '-c:v',
  'libvpx',
  join(out, 'warm-up.webm'),
]);
const start = statSync(join(out, 'chromium-1280x800', 'results.xml')).mtimeMs / 1000 - 3600;
utimesSync(join(out, 'warm-up.webm'), start, start);

// Paths of this machine do not belong in the demo.
for (const name of readdirSync(out, { recursive: true, encoding: 'utf8' })) {
  if (!/\.(xml|txt)$/.test(name)) continue;
  const path = join(out, name);
  const { mtimeMs } = statSync(path);
  writeFileSync(
    path,
    readFileSync(path, 'utf8')
      .replaceAll(process.cwd(), '/srv/ferry')
      .replaceAll(/hostname="[^"]*"/g, 'hostname="ferry-ci"'),
  );
  utimesSync(path, mtimeMs / 1000, mtimeMs / 1000);
}
spawnSync(
  'tar',
  [
    '--format=pax',
    '--owner=0',
    '--group=0',
    '--numeric-owner',
    '-czf',
    join(here, 'ferry-evening.tar.gz'),
    '-C',
    data,
    'ferry-evening',
  ],
  { stdio: 'inherit' },
);
await site.close();
await server.close();
rmSync(data, { recursive: true, force: true });
process.exit(0);
