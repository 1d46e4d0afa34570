import type { Frame } from './failure.ts';

/** Paths that are somebody else's code in any language's usual layout. */
const libraryPath =
  /node_modules|^node:|\binternal\/|site-packages|dist-packages|\/lib\/python|\/gems\/|\.m2\/|\bjava\.base|jdk\.|^native$|<anonymous>|^<unknown>/;

// `at name (file:line:col)` and `at file:line:col`, as V8 and others write them.
const atFrame = /^\s*at (?:async )?(?:(.+?) \()?(?:file:\/\/)?([^\s()]+?):(\d+)(?::(\d+))?\)?\s*$/;
// `File "file", line N, in name`
const fileFrame = /^\s*File "([^"]+)", line (\d+)(?:, in (.+))?\s*$/;
// `name@file:line:col`
const mailFrame = /^\s*([^@\s]*)@(.+?):(\d+):(\d+)\s*$/;

function readFrame(line: string): Frame | undefined {
  const at = atFrame.exec(line);
  if (at) return frame(at[2]!, at[3]!, at[4], at[1]);
  const file = fileFrame.exec(line);
  if (file) return frame(file[1]!, file[2]!, undefined, file[3]);
  const mail = mailFrame.exec(line);
  if (mail) return frame(mail[2]!, mail[3]!, mail[4], mail[1]);
  return undefined;
}

const frame = (file: string, line: string, column?: string, name?: string): Frame => ({
  file,
  line: Number(line),
  ...(column ? { column: Number(column) } : {}),
  ...(name ? { name } : {}),
});

/**
 * The first frame of the team's own code, and how many library frames were passed over.
 * A frame in the test's own file goes before one in a helper of the team's.
 * Frames listed oldest first (`File "…", line N`) are read from the end.
 */
export function readStack(stack: string, testFile?: string): { ownFrame?: Frame; libraryFrames: number } {
  const lines = stack.split('\n');
  const frames = lines.map(readFrame).filter((found) => found !== undefined);
  if (lines.some((line) => fileFrame.test(line))) frames.reverse();
  const team = frames.filter((found) => !libraryPath.test(found.file));
  const own = team.find((found) => testFile !== undefined && samePath(found.file, testFile)) ?? team[0];
  return { ...(own ? { ownFrame: own } : {}), libraryFrames: frames.filter((f) => libraryPath.test(f.file)).length };
}

/** One path may be absolute where the other is relative to the project. */
const samePath = (a: string, b: string): boolean =>
  a === b || a.endsWith(`/${b.replace(/^\.?\//, '')}`) || b.endsWith(`/${a}`);

/** `file:line` with the path cut to its last two parts. */
export const frameText = (found: Frame): string => `${found.file.split('/').slice(-1)[0]}:${found.line}`;
