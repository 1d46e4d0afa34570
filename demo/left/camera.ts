import { spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { WebDriver } from '../suite/webdriver.ts';

/** Pause between two pictures: a recorder of ten pictures a second and more would hold the test up. */
const pauseMs = 60;

/** Films a session by its screenshots, as recorders outside the browser do, and writes the video under a name that says nothing. */
export class Camera {
  private readonly shots: { at: number; bytes: Buffer }[] = [];
  private running = true;
  private readonly done: Promise<void>;

  constructor(private readonly driver: WebDriver) {
    this.done = this.film();
  }

  private async film(): Promise<void> {
    while (this.running) {
      const bytes = await this.driver.screenshot().catch(() => undefined);
      if (bytes) this.shots.push({ at: Date.now(), bytes: Buffer.from(bytes, 'base64') });
      await new Promise((next) => setTimeout(next, pauseMs));
    }
  }

  /** Keeps the picture of this moment under a name of the suite's own. */
  async still(path: string): Promise<void> {
    const bytes = Buffer.from(await this.driver.screenshot(), 'base64');
    const at = Date.now() / 1000;
    mkdirSync(join(path, '..'), { recursive: true });
    writeFileSync(path, bytes);
    utimesSync(path, at, at);
  }

  /** Ends the film and writes it; the file's time is the moment the last picture was taken. */
  async end(folder: string): Promise<void> {
    this.running = false;
    await this.done;
    const last = this.shots.at(-1);
    if (!last) return;
    mkdirSync(folder, { recursive: true });
    const reel = mkdtempSync(join(tmpdir(), 'reel-'));
    const list = this.shots.map(({ at, bytes }, i) => {
      const name = join(reel, `${i}.png`);
      writeFileSync(name, bytes);
      const next = this.shots[i + 1]?.at ?? at + 40;
      return `file '${name}'\nduration ${(next - at) / 1000}`;
    });
    writeFileSync(join(reel, 'list.txt'), list.join('\n'));
    const path = join(folder, `${randomUUID()}.webm`);
    spawnSync(
      'ffmpeg',
      [
        '-v',
        'error',
        '-f',
        'concat',
        '-safe',
        '0',
        '-i',
        join(reel, 'list.txt'),
        '-fps_mode',
        'vfr',
        '-vf',
        'scale=960:-2',
        '-c:v',
        'libvpx',
        '-b:v',
        '700k',
        '-deadline',
        'realtime',
        '-cpu-used',
        '8',
        path,
      ],
      { stdio: 'inherit' },
    );
    rmSync(reel, { recursive: true });
    utimesSync(path, last.at / 1000, last.at / 1000);
  }
}
