import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { announced } from '../browser/devtools/passing.ts';
import { PassedFirefox, type SessionRecorder } from '../browser/firefox/passed-socket.ts';
import { clock } from '../browser/recording/clock.ts';
import { args, brokeDown, endAs, ownPort, recordingTask, say, startReal } from './stand-in-process.ts';
import { Recorder } from './stand-in-recorder.ts';

const portName = /^--?remote-debugging-port(?:=(\d*))?$/;
/** Where it listens when it is asked to and not told where. */
const usualPort = 9222;

/** The arguments without those of the port, and which port was asked for. */
function withoutPort(): { rest: string[]; port: number | undefined } {
  const at = args.findIndex((one) => portName.test(one));
  if (at < 0) return { rest: [...args], port: undefined };
  const given = portName.exec(args[at]!)?.[1];
  const next = given === undefined && /^\d+$/.test(args[at + 1] ?? '') ? args[at + 1] : undefined;
  const port = Number(given ?? next ?? usualPort);
  return { rest: args.filter((_, i) => i !== at && (next === undefined || i !== at + 1)), port };
}

/** What follows the name of an argument, in either way of writing it. */
function argument(name: string): string | undefined {
  const at = args.findIndex((one) => one.replace(/^--?/, '').split('=', 1)[0] === name);
  return at < 0 ? undefined : args[at]!.includes('=') ? args[at]!.split('=').slice(1).join('=') : args[at + 1];
}

/** Runs a Firefox in place of the one its client named, and records beside the client. */
export async function standForFirefox(program: string): Promise<void> {
  const { rest, port } = withoutPort();
  const isDriven = args.some((one) => /^--?marionette$/.test(one));
  const isRecorded = process.env.ISKEL_DETAIL !== 'none';
  if (isDriven && isRecorded)
    say(
      'not recorded: a WebDriver program drives this Firefox; let the test speak to the address of Iskel instead, /wd',
    );
  if (isRecorded && !isDriven && port !== undefined) return record(program, rest, port);
  endAs(await startReal(program, args, 'inherit', false).gone);
}

async function record(program: string, rest: string[], port: number): Promise<void> {
  const given = [`--remote-debugging-port=${await ownPort(port)}`, ...rest];
  const { child, gone } = startReal(program, given, ['inherit', 'inherit', 'pipe'], true);
  child.stderr!.pipe(announced((line) => listening(line))).pipe(process.stderr);
  const recorders: Recorder[] = [];

  /** Each session is recorded in a thread of its own. */
  const recorder = (): SessionRecorder => {
    const one = new Recorder(recordingTask());
    recorders.push(one);
    return {
      begins: (capabilities, write) => {
        one.say = write;
        one.watchFrom({ capabilities });
        return one.stands;
      },
      passed: (from, chunk) => one.hear({ from, connection: 0, over: 'bidi', chunk, at: clock() }),
      told: (message) => one.hearOurs(message),
    };
  };

  async function listening(line: string): Promise<string> {
    const [, host = '127.0.0.1', browserPort = ''] = /ws:\/\/([^\s/]+):(\d+)/.exec(line) ?? [];
    const unread = (why: string): void => say(`not recorded: a connection cannot be read: ${why}`);
    const passed = new PassedFirefox(Number(browserPort), recorder, unread);
    const server = await passed.listen(host.replace(/^\[|\]$/g, ''), port);
    const ours = (server.address() as { port: number }).port;
    tellInProfile(Number(browserPort), ours);
    return line.replace(`:${browserPort}`, `:${ours}`);
  }

  const ended = await gone;
  await Promise.all(recorders.map((one) => one.end(brokeDown(ended.signal))));
  endAs(ended);
}

/** A Firefox leaves in its profile where it listens: whoever looks there is to find us. */
function tellInProfile(browserPort: number, ours: number): void {
  const profile = argument('profile');
  if (profile === undefined) return;
  const path = join(profile, 'WebDriverBiDiServer.json');
  try {
    writeFileSync(path, readFileSync(path, 'utf8').replace(String(browserPort), String(ours)));
  } catch {
    // It left none: then nobody looks there.
  }
}
