import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { followed } from './descendants.ts';

/** A process that ended and that nobody has asked after is still listed. */
const runs = (pid: number): boolean => {
  try {
    return !/\) Z /.test(readFileSync(`/proc/${pid}/stat`, 'latin1'));
  } catch {
    return false;
  }
};

it('ends what a program left behind without its environment, and nothing else', async () => {
  const other = spawn('sleep', ['30'], { stdio: 'ignore' });
  const child = spawn('sh', ['-c', 'env -i setsid sleep 31 >/dev/null 2>&1 & echo $!; sleep 0.3'], {
    stdio: ['ignore', 'pipe', 'ignore'],
    detached: true,
  });
  const follow = followed(child.pid);
  let said = '';
  child.stdout.on('data', (text: Buffer) => (said += text.toString()));
  await new Promise((done) => child.once('close', done));
  const left = Number(said);
  expect(runs(left)).toBe(true);
  follow.end();
  await expect.poll(() => runs(left)).toBe(false);
  expect(runs(other.pid!)).toBe(true);
  other.kill('SIGKILL');
});
