import { spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';

/** Larger than the windows tests ask for; a window's size is its own, the screen only has to hold it. */
const screenSize = { width: 1920, height: 1440 };
const startLimitMs = 10_000;

/** What a screen shows, four bytes a pixel: blue, green, red, and one that means nothing. */
export interface ScreenPixels {
  bytes: Buffer;
  width: number;
  height: number;
}

/** A screen that exists in memory only, for browsers that have no headless mode. */
export interface VirtualScreen {
  /** Environment of the programs that draw on it. */
  env: NodeJS.ProcessEnv;
  /** Some rows below the first `top`, in the screen's whole width, as they are now. */
  read(top: number, rows: number): Promise<ScreenPixels>;
  close(): Promise<void>;
}

/** Starts a screen whose picture lies in a file below `folder`; only who knows its cookie may draw on it. */
export async function startScreen(program: string, folder: string, env: NodeJS.ProcessEnv): Promise<VirtualScreen> {
  const authority = join(folder, 'authority');
  writeFileSync(authority, cookieFile(randomBytes(16)), { mode: 0o600 });
  const child = spawn(
    program,
    [
      ...['-displayfd', '3', '-auth', authority, '-fbdir', folder, '-nolisten', 'tcp', '-noreset'],
      ...['-screen', '0', `${screenSize.width}x${screenSize.height}x24`],
    ],
    { env, stdio: ['ignore', 'ignore', 'ignore', 'pipe'], detached: true },
  );
  const number = await displayOf(program, child);
  let file: FileHandle | undefined;
  let layout: Layout | undefined;
  return {
    env: { DISPLAY: `:${number}`, XAUTHORITY: authority },
    async read(top, rows) {
      file ??= await open(join(folder, 'Xvfb_screen0'));
      layout ??= await layoutOf(file);
      const height = Math.min(rows, layout.height - top);
      const bytes = Buffer.allocUnsafe(layout.stride * height);
      await file.read(bytes, 0, bytes.length, layout.offset + top * layout.stride);
      return { bytes, width: layout.stride / 4, height };
    },
    async close() {
      await file?.close();
      if (child.exitCode !== null || child.signalCode !== null) return;
      // Asked to end, it takes its lock and socket with it; killed, it would leave them.
      const gone = new Promise((done) => child.once('exit', done));
      child.kill('SIGTERM');
      await Promise.race([gone, new Promise((done) => setTimeout(done, 1000).unref())]);
    },
  };
}

function displayOf(program: string, child: ChildProcess): Promise<string> {
  return new Promise((done, fail) => {
    const timer = setTimeout(() => fail(new Error(`${program} did not tell its display`)), startLimitMs);
    child.stdio[3]!.on('error', (error) => fail(new Error(`${program} did not tell its display: ${error.message}`)));
    child.on('error', (error) => fail(new Error(`${program} did not start: ${error.message}`)));
    child.on('exit', () => fail(new Error(`${program} did not start: it ended at once`)));
    (child.stdio[3] as Readable).once('data', (text: Buffer) => {
      clearTimeout(timer);
      done(text.toString().trim());
    });
  });
}

interface Layout {
  offset: number;
  stride: number;
  height: number;
}

/** Where the pixels lie in an X window dump: a header of 32-bit words, a table of colours of 12 bytes each, the rows. */
async function layoutOf(file: FileHandle): Promise<Layout> {
  const head = Buffer.alloc(100);
  await file.read(head, 0, head.length, 0);
  const word = (index: number): number => head.readUInt32BE(index * 4);
  return { offset: word(0) + word(19) * 12, stride: word(12), height: word(5) };
}

/** An authority file with one cookie that fits every display. */
function cookieFile(cookie: Buffer): Buffer {
  const counted = (bytes: Buffer): Buffer => {
    const length = Buffer.alloc(2);
    length.writeUInt16BE(bytes.length);
    return Buffer.concat([length, bytes]);
  };
  const none = counted(Buffer.alloc(0));
  return Buffer.concat([
    Buffer.from([0xff, 0xff]),
    none,
    none,
    counted(Buffer.from('MIT-MAGIC-COOKIE-1')),
    counted(cookie),
  ]);
}
