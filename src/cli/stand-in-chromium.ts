import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable, Writable } from 'node:stream';
import { announced, clientPipe, passPort, type Tap } from '../browser/devtools/passing.ts';
import { SharedPipe } from '../browser/devtools/shared-pipe.ts';
import { clock } from '../browser/recording/clock.ts';
import { args, brokeDown, endAs, ownPort, recordingTask, say, startReal } from './stand-in-process.ts';
import { Recorder } from './stand-in-recorder.ts';

const argument = (name: string): string | undefined => {
  const found = args.find((one) => one === name || one.startsWith(`${name}=`));
  return found?.slice(name.length + 1);
};

/** Runs a Chromium in place of the one its client named, and records beside the client. */
export async function standForChromium(program: string): Promise<void> {
  const pipe = args.find((one) => /^--remote-debugging-pipe\b/.test(one));
  const port = argument('--remote-debugging-port');
  const isRecorded = process.env.ISKEL_DETAIL !== 'none';
  /** Messages of that kind are passed on and not understood. */
  const isUnread = pipe !== undefined && /=cbor$/i.test(pipe);
  if (isUnread && isRecorded) say('not recorded: its client speaks CBOR over the pipe, which is not read');
  if (isRecorded && !isUnread && (pipe !== undefined || port !== undefined))
    return record(program, pipe !== undefined, port === undefined ? undefined : Number(port) || 0);
  // Nobody will drive it, or nothing is to be recorded: the client's pipe, where there is one, is the browser's own.
  const stdio = pipe === undefined ? 'inherit' : Array<'inherit'>(5).fill('inherit');
  endAs(await startReal(program, args, stdio, false).gone);
}

async function record(program: string, piped: boolean, asked: number | undefined): Promise<void> {
  // Without a port of the client's there is none at all: we share its pipe.
  const given = args.filter((one) => !/^--remote-debugging-(?:port|address)\b/.test(one));
  const port = asked === undefined ? [] : [`--remote-debugging-port=${await ownPort(asked)}`];
  const { child, gone } = startReal(
    program,
    [...given, ...port],
    ['inherit', 'inherit', 'pipe', ...(piped ? (['pipe', 'pipe'] as const) : [])],
    asked !== undefined,
  );
  const task = recordingTask();
  const recorder = new Recorder(task);
  const tap =
    (over: 'pipe' | 'port'): Tap =>
    (from, connection, chunk) =>
      recorder.hear({ from, connection, over, chunk, at: clock() });
  if (asked === undefined) child.stderr!.pipe(process.stderr);
  else child.stderr!.pipe(announced((line) => listening(line, asked))).pipe(process.stderr);

  async function listening(line: string, wanted: number): Promise<string> {
    const [, browserPort, path = ''] = /:(\d+)(\/devtools\/browser\/\S+)/.exec(line) ?? [];
    if (!piped) recorder.watchFrom(`127.0.0.1:${browserPort}`);
    await recorder.stands;
    const host = argument('--remote-debugging-address') ?? '127.0.0.1';
    const server = await passPort(host, wanted, Number(browserPort), tap('port'));
    const ours = (server.address() as { port: number }).port;
    // Where any port would do, the browser leaves in its profile which it took.
    const profile = argument('--user-data-dir');
    if (wanted === 0 && profile) writeFileSync(join(profile, 'DevToolsActivePort'), `${ours}\n${path}`);
    return line.replace(`:${browserPort}/`, `:${ours}/`);
  }

  if (piped) {
    const [, , , commands, answers] = child.stdio as unknown as [0, 0, 0, Writable, Readable];
    const shared = new SharedPipe(
      { commands, answers },
      tap('pipe'),
      (message) => recorder.hearOurs(message),
      task.name,
    );
    recorder.say = (command) => shared.send(command);
    recorder.onLost = () => shared.release();
    recorder.watchFrom('pipe');
    await Promise.race([recorder.stands, gone]);
    shared.join(clientPipe());
  }
  const ended = await gone;
  await recorder.end(brokeDown(ended.signal));
  endAs(ended);
}
