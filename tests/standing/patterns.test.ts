import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkSync } from 'recheck';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';
import { parseDrill } from '../../src/core/drill/parse.ts';
import { createMasker } from '../../src/core/evidence/masking.ts';
import { findWords } from '../../src/core/evidence/find-words.ts';
import { headlineOf, limitIn, locatorIn, readMessage } from '../../src/core/failures/message.ts';
import { readStack } from '../../src/core/failures/stack.ts';
import { readValues } from '../../src/core/failures/values.ts';
import { normaliseMessage } from '../../src/core/families/fingerprint.ts';
import { bareAddress } from '../../src/core/formats/address.ts';
import { JunitReader } from '../../src/core/formats/junit.ts';
import { readLog } from '../../src/core/formats/log-text.ts';
import { attachmentsIn } from '../../src/core/formats/report.ts';
import { readTap } from '../../src/core/formats/tap.ts';
import { readVtt } from '../../src/core/formats/vtt.ts';
import { browserIn, sizeIn, tryIn, wordsOf } from '../../src/core/placing/words.ts';
import { questionOf } from '../../src/server/store/find.ts';

/**
 * No text from outside may make a pattern stand still. Each pattern of the source is either proven to take time in
 * proportion to its text, or is named below with the most that it is ever given. And every reader, whatever it is made
 * of, is given texts made to hurt, up to 1 MB. Time is counted as processor time, so that a busy machine does not matter.
 */
interface Pattern {
  file: string;
  line: number;
  source: string;
  flags: string;
}

/** What each pattern was known by that is proven to be linear, and each that is too large to be proven in time. */
const proofs = 'tests/standing/proven-patterns.json';

const filesBelow = (folder: string): string[] =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return filesBelow(path);
    return /\.(?:ts|js|mjs|vue)$/.test(name) && !name.endsWith('.test.ts') ? [path] : [];
  });

function patternsOf(file: string): Pattern[] {
  const text = readFileSync(file, 'utf8');
  const script = file.endsWith('.vue') ? (/<script[^>]*>([\s\S]*?)<\/script>/.exec(text)?.[1] ?? '') : text;
  const kind = /\.m?js$/.test(file) ? ts.ScriptKind.JS : ts.ScriptKind.TS;
  const tree = ts.createSourceFile(file, script, ts.ScriptTarget.Latest, true, kind);
  const found: Pattern[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isRegularExpressionLiteral(node)) {
      const [, source, flags] = /^\/([\s\S]*)\/(\w*)$/.exec(node.text)!;
      const line = tree.getLineAndCharacterOfPosition(node.getStart()).line + 1;
      found.push({ file, line, source: source!, flags: flags! });
    }
    ts.forEachChild(node, visit);
  };
  visit(tree);
  return found;
}

/**
 * Patterns that are not proven, by their file: the longest text each is given, and what sees to it. Whatever is in
 * such a file must stay fast on that much.
 */
const bounded: Record<string, { most: number; by: string }> = {
  'src/core/failures/message.ts': { most: 16_000, by: 'legible(), of which locators and limits see 4,000' },
  'src/core/failures/values.ts': { most: 16_000, by: 'legible()' },
  'src/core/failures/stack.ts': { most: 1000, by: 'lines beyond longestLine are no frames' },
  'src/core/families/fingerprint.ts': { most: 600, by: 'normaliseMessage() cuts first' },
  'src/core/drill/expected.ts': { most: 4000, by: 'hintsOf() cuts the message' },
  'src/core/drill/complete.ts': { most: 200_000, by: 'completionsAt() cuts the drill' },
  'src/core/formats/report.ts': { most: 256 * 1024, by: 'mostOutput' },
  'src/core/formats/tap.ts': { most: 64 * 1024, by: 'readTap() cuts its lines' },
  'src/core/remedies/hand-over.ts': { most: 2000, by: 'the first lines of a stack' },
  'src/server/ingest/delivered/gather.ts': { most: 500, by: 'cleanName()' },
  'src/web/screens/Cause.vue': { most: 40_000, by: 'a page of our own docs' },
  // One look at a text, without a loop in it: too many alternatives to be proven, few enough to be timed.
  'src/core/evidence/secret-shapes.ts': { most: 1024 * 1024, by: 'timed up to 1 MB here' },
};

const cpuMs = (work: () => void): number => {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
};

/** Beginnings that patterns wait for, and things that go on and on after them. */
const leads = [
  '', 'expected ', 'expected: "', 'By.css(', 'at ', 'File "', 'ok ', 'waiting for selector .', 'element #a ', 'window "', '#',
  'found in (', 'in test file ', '+ actual - expected\n', '--- expected\n+++ actual\n@@\n', 'expected equality of these values:\n',
  'would receive the click: <', 'Bearer ', 'eyJ', 'https://', '<input type=password ', '<password ', 'glpat-', '{"using":"',
  '2026-11-23 10:00:00 ', '[[ATTACHMENT|', '<![CDATA[', 'not ok 1 - ',
]; // prettier-ignore
const goings = [
  'a', '1', ' ', '\n', '"', "'", '“', '<', '>', '.', '/', '-', '#', '@', ':', '\\', '(', '[', 'a ', 'a.', 'a/', '-a', ' -', '\n ', '\t',
  '"a', '\\"', '<a ', '<input ', '<input value="', 'password ', 'password=', 'token:', 'eyJ-', 'a@', '://', 'at a', ' in ', 'in 1 s', '1.1.',
  '“a', '= ', '# ', '\n#', '\n\n', '(a', 'a:1', '..', 'By.css(', 'File "', 'ok ', ' /a', 'A-', '0x', '%25', 'cookie: ', '&#x', '\u2028',
]; // prettier-ignore
const end = '\u0000!';

const hurting = (lead: string, going: string, length: number): string =>
  lead + going.repeat(Math.max(1, Math.floor((length - lead.length) / going.length))) + end;

describe('patterns of the source', () => {
  const all = filesBelow('src').flatMap(patternsOf);
  /**
   * A proof holds as long as its pattern is the same, so it is made once and kept by what it is about. `npm run hostile`
   * makes every one again and writes them.
   */
  const kept = JSON.parse(readFileSync(proofs, 'utf8')) as { safe: string[]; unknown: string[] };
  const known = new Map(Object.entries(kept).flatMap(([verdict, all]) => all.map((about) => [about, verdict])));
  const anew = Boolean(process.env.ISKEL_HOSTILE);
  const made = { safe: new Set<string>(), unknown: new Set<string>() };
  /** A pattern too large to be proven in time is neither: it is timed like those that are bounded. */
  const verdictOf = ({ source, flags }: Pattern): 'safe' | 'vulnerable' | 'unknown' => {
    // Without anything that repeats there is nothing to grow.
    if (!/[*+{]/.test(source)) return 'safe';
    const about = createHash('sha256').update(`${flags}/${source}`).digest('hex').slice(0, 16);
    const before = known.get(about);
    if (before && !anew) return before as 'safe' | 'unknown';
    const verdict = checkSync(source, flags.replace(/[dgv]/g, ''), { timeout: 600 }).status;
    if (verdict !== 'vulnerable') made[verdict].add(about);
    return verdict;
  };
  const doubtful = all.flatMap((one) => {
    const verdict = verdictOf(one);
    return verdict === 'safe' ? [] : [{ ...one, verdict }];
  });
  if (anew) {
    const lists = { safe: [...made.safe].sort(), unknown: [...made.unknown].sort() };
    writeFileSync(proofs, `${JSON.stringify(lists, undefined, 1)}\n`);
  }

  it('are all proven to be linear, or are given no more than they can take', () => {
    expect(all.length).toBeGreaterThan(300);
    const nobody = doubtful.filter(({ file, verdict }) => verdict === 'vulnerable' && !bounded[file]);
    expect(nobody.map(({ file, line, source }) => `${file}:${line} /${source.slice(0, 90)}/`)).toEqual([]);
  }, 240_000);

  it('that are not proven take less than a second on the most they are given', () => {
    const slow: string[] = [];
    for (const { file, line, source, flags } of doubtful) {
      const pattern = new RegExp(source, flags);
      const { most } = bounded[file] ?? { most: 1024 ** 2 };
      for (const lead of most > 100_000 ? [''] : leads)
        for (const going of goings) {
          const text = hurting(lead, going, most);
          const took = cpuMs(() => void text.replace(pattern, ''));
          if (took > 1000) slow.push(`${file}:${line} ${Math.round(took)} ms on ${JSON.stringify(lead + going)}…`);
        }
    }
    expect(slow).toEqual([]);
  }, 240_000);
});

describe('readers of what comes from outside', () => {
  const plain = createMasker();
  const declared = createMasker(['lantern-77', `K"<&'ı9`, '471108']);
  const read = (...parts: string[]): void => {
    const reader = new JunitReader(() => undefined, {});
    for (const part of parts) reader.write(part);
    reader.close();
  };
  const xml = (text: string): string => text.replace(/[&<>"\0]/g, (char) => `&#${char.charCodeAt(0) || 32};`);
  const readers: Record<string, (text: string) => unknown> = {
    'masking of shapes': (text) => plain.text(text),
    'masking of declared secrets': (text) => declared.text(text),
    'masking of values': (text) => declared.value({ data: { text, list: [text.slice(0, 100)] } }),
    messages: (text) => readMessage(text),
    'messages, of a stack': (text) => readMessage('', text),
    'values of messages': (text) => readValues(text),
    headlines: (text) => headlineOf(text),
    locators: (text) => locatorIn(text),
    limits: (text) => limitIn(text),
    stacks: (text) => readStack(text),
    fingerprints: (text) => normaliseMessage(text),
    TAP: (text) => readTap(`1..1\nnot ok 1 - ${text}\n# ${text.slice(0, 1000)}\n`, 'suite'),
    'JUnit XML': (text) =>
      read(
        `<testsuite name="s"><testcase name="c"><failure message="${xml(text)}">`,
        `<![CDATA[${text.replace(/[\0>]/g, ' ')}]]></failure></testcase></testsuite>`,
      ),
    'logs, one line': (text) =>
      readLog(`2026-11-23 10:00:00 INFO a\n2026-11-23 10:00:01 ${text.replaceAll('\n', ' ')}`),
    'logs, many lines': (text) => readLog(`2026-11-23 10:00:00 INFO a\n${text}`),
    WebVTT: (text) => readVtt(`WEBVTT\n\n00:00.000 --> 00:01.000\n${text}\n`),
    'paths in output': (text) => attachmentsIn(`a.png ${text}`),
    addresses: (text) => bareAddress(text),
    'words to find': (text) => findWords([], text, text),
    questions: (text) => questionOf(text),
    'names of files': (text) => [wordsOf(text), tryIn(text), browserIn(text), sizeIn(text)],
    drills: (text) => parseDrill(`drill "x"\n${text.slice(0, 200_000)}`),
  };

  it.each(Object.entries(readers))(
    '%s: time grows no worse than the text, up to 1 MB',
    (name, reader) => {
      // The XML reader is another's and reads a character at a time: shorter texts show the same.
      const large = name === 'JUnit XML' ? 200_000 : 1_000_000;
      const small = large / 10;
      const slow: string[] = [];
      for (const going of goings) {
        const leadsOf = going.length === 1 ? leads.slice(0, 12) : [''];
        for (const lead of leadsOf) {
          const took = (length: number): number => {
            const text = hurting(lead, going, length);
            return cpuMs(() => void reader(text));
          };
          const few = took(small);
          if (few < 15 && lead !== '') continue;
          const much = took(large);
          // Ten times the text: ten times the work, with room for what the machine does besides.
          if (much > Math.max(few, 25) * 30)
            slow.push(`${JSON.stringify(lead + going)}…: ${Math.round(few)} ms, then ${Math.round(much)} ms`);
        }
      }
      expect(slow).toEqual([]);
    },
    180_000,
  );
});
