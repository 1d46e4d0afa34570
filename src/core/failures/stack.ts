import type { Frame } from './failure.ts';

/** What a project says of its own stacks: texts that occur in paths or names of its own code, or of libraries. */
export interface FrameRules {
  own: string[];
  library: string[];
}

/** Paths that are somebody else's code in any language's usual layout. */
const libraryPath =
  /node_modules|^node:|\binternal\/|site-packages|dist-packages|\/lib\/python|\/gems\/|\.m2\/|\bjava\.base|jdk\.|^native$|<anonymous>|^<unknown>|\/vendor\/|\/usr\/(?:lib|share|include)\/|\/perl5?\/|\/rustc\/|^runtime\/|\/go\/pkg\//;
/** Names of packages that come with a language or its test libraries. */
const libraryName =
  /^(?:java|javax|jdk|sun|com\.sun|kotlin|scala|groovy|android|System|Microsoft|Xunit|NUnit|core|std|testing)[.:]|^org\.(?:junit|testng|hamcrest|assertj|opentest4j|apache|gradle)\.|\.remote\.|webdriver|^testing::/i;

type Shape = { pattern: RegExp; frame: (m: RegExpExecArray) => Frame; oldestFirst?: boolean };
const frame = (file: string, line: string, column?: string, name?: string): Frame => ({
  file: file.replace(/^file:\/\//, ''),
  line: Number(line),
  ...(column ? { column: Number(column) } : {}),
  ...(name ? { name } : {}),
});

/** How languages write one line of a stack. */
const shapes: Shape[] = [
  // at name (file:line:col), at file:line:col; Java: at pkg.Class.method(File.java:12)
  {
    pattern: /^\s*at (?:async )?(?:(.+?) ?\()?(?:file:\/\/)?([^\s()]+?):(\d+)(?::(\d+))?\)?\s*$/,
    frame: (m) => frame(m[2]!, m[3]!, m[4], m[1]),
  },
  // at Name(args) in /path/File.cs:line 12
  { pattern: /^\s*at (.+) in (.+):line (\d+)\s*$/, frame: (m) => frame(m[2]!, m[3]!, undefined, m[1]) },
  // File "file", line N, in name
  {
    pattern: /^\s*(?:E\s+)?File "([^"]+)", line (\d+)(?:, in (.+))?\s*$/,
    frame: (m) => frame(m[1]!, m[2]!, undefined, m[3]),
    oldestFirst: true,
  },
  // name@file:line:col
  { pattern: /^\s*([^@\s]*)@(.+?):(\d+):(\d+)\s*$/, frame: (m) => frame(m[2]!, m[3]!, m[4], m[1]) },
  // file.rb:12:in `name'
  { pattern: /^\s*(?:from |# )?(\S+?):(\d+):in [`'](.+)'\s*$/, frame: (m) => frame(m[1]!, m[2]!, undefined, m[3]) },
  // Failed test 'x' / at t/file.t line 12.
  { pattern: /^[#\s]*(?:.*\s)?at (\S+) line (\d+)\.?\s*$/, frame: (m) => frame(m[1]!, m[2]!) },
  // (in test file x.bats, line 12), (from function `f' in file x.bash, line 3,
  {
    pattern: /\(?(?:in test|from function [`'](.+?)' in|in)(?: test)? file (\S+), line (\d+)/,
    frame: (m) => frame(m[2]!, m[3]!, undefined, m[1]),
  },
  // #1 /path/File.php(12): name()
  { pattern: /^\s*#\d+ (\S+)\((\d+)\): (.+)$/, frame: (m) => frame(m[1]!, m[2]!, undefined, m[3]) },
  // file.cc:12: Failure; file.py:12: AssertionError; \tfile.go:12 +0x1d; /path/File.php:12
  {
    pattern:
      /^\s*(?:->\s*)?((?:\.{0,2}\/)?[\w@./\\+-]+\.[a-z]{1,4}):(\d+)(?::(\d+))?(?::? (?:Failure|FAILED|error|\w*Error\b.*|\+0x[0-9a-f]+))?:?\s*$/i,
    frame: (m) => frame(m[1]!, m[2]!, m[3]),
  },
];

/** Longer lines are no frames. */
const longestLine = 1000;

/**
 * The first frame of the team's own code, and how many library frames were passed over.
 * A frame in the test's own file goes before one in a helper of the team's.
 * Frames listed oldest first (`File "…", line N`) are read from the end.
 * @param rules what the project says of its own; goes before what is known of languages
 */
export function readStack(
  stack: string,
  testFile?: string,
  rules?: FrameRules,
): { ownFrame?: Frame; libraryFrames: number } {
  const frames: Frame[] = [];
  let oldestFirst = false;
  for (const line of stack.slice(0, 200_000).split('\n')) {
    if (line.length > longestLine) continue;
    for (const shape of shapes) {
      const found = shape.pattern.exec(line);
      if (!found) continue;
      frames.push(shape.frame(found));
      oldestFirst ||= shape.oldestFirst === true;
      break;
    }
  }
  if (oldestFirst) frames.reverse();
  const isLibrary = (one: Frame): boolean => {
    const text = `${one.file} ${one.name ?? ''}`;
    if (rules?.own.some((part) => text.includes(part))) return false;
    return (
      rules?.library.some((part) => text.includes(part)) ||
      libraryPath.test(one.file) ||
      (one.name !== undefined && libraryName.test(one.name))
    );
  };
  const team = frames.filter((one) => !isLibrary(one));
  const own = team.find((found) => testFile !== undefined && samePath(found.file, testFile)) ?? team[0];
  return { ...(own ? { ownFrame: own } : {}), libraryFrames: frames.length - team.length };
}

/** One path may be absolute where the other is relative to the project. */
const samePath = (a: string, b: string): boolean =>
  a === b || a.endsWith(`/${b.replace(/^\.?\//, '')}`) || b.endsWith(`/${a}`);

/** `file:line` with the path cut to its last two parts. */
export const frameText = (found: Frame): string => `${found.file.split('/').slice(-1)[0]}:${found.line}`;
