import { isoOf } from '../formats/times.ts';
import { partNames, type HandedSuspect, type HandOver } from './hand-over.ts';
import { aboutRows, causeSentence, leftOut, linkAt, moment, partedCounts, percentOf } from './words.ts';

/** How headings, items, code and links are written. */
interface Form {
  title: (text: string) => string;
  head: (text: string) => string;
  item: (text: string) => string;
  strong: (text: string) => string;
  code: (text: string) => string;
  text: (text: string) => string;
}

/** What a tracker would take for its own marks, and lines that would begin something. */
const marks = /[\\`*_{}[\]<>#|~!]/g;
/** A tracker would call whoever has that name: what stands between is seen by nobody. */
const mentions = /@(?=[\w-])/g;
const markdown: Form = {
  title: (text) => `# ${text}`,
  head: (text) => `## ${text}`,
  item: (text) => `- ${text}`,
  strong: (text) => `**${text}**`,
  code: (text) => {
    // A fence longer than any within.
    const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
    const fence = '`'.repeat(longest + 1);
    return `${fence}\n${text}\n${fence}`;
  },
  text: (text) => text.replaceAll(/\s+/g, ' ').replaceAll(marks, '\\$&').replaceAll(mentions, '@\u200b'),
};

const underlined = (text: string, mark: string): string => `${text}\n${mark.repeat(Math.min(78, [...text].length))}`;
const plain: Form = {
  title: (text) => underlined(text, '='),
  head: (text) => underlined(text, '-'),
  item: (text) => `  - ${text}`,
  strong: (text) => text,
  code: (text) => text.replaceAll(/^/gm, '    '),
  text: (text) => text.replaceAll(/\s+/g, ' '),
};

/** As Markdown, for a tracker: pictures are told of, not carried. */
export const writeMarkdown = (one: HandOver): string => write(one, markdown);

/** As plain text. */
export const writeText = (one: HandOver): string => write(one, plain);

function write(one: HandOver, { title, head, item, strong, code, text }: Form): string {
  const blocks: string[] = [title(text(one.sentence)), text(causeSentence(one))];
  const reasons = (one: Pick<HandedSuspect, 'for' | 'against'>): string[] => [
    ...one.for.map((reason) => `  ${item(`${text('for')}: ${text(reason)}`)}`),
    ...one.against.map((reason) => `  ${item(`${text('against')}: ${text(reason)}`)}`),
  ];
  const section = (name: string, lines: readonly string[]): void => {
    if (lines.length) blocks.push(head(text(name)), lines.join('\n'));
  };
  blocks.push(
    aboutRows(one)
      .map(([name, value]) => item(`${strong(text(name))}: ${text(value)}`))
      .join('\n'),
  );
  blocks.push(`${text('The moment on the bench')}: ${linkAt(one.link, one.failure.at)}`);
  if (one.failure.message) blocks.push(code(one.failure.message));
  if (one.verdict.note) blocks.push(`${strong('Note')}: ${text(one.verdict.note)}`);
  section(
    partNames.advice,
    one.advice.map((advice) => item(`${strong(text(`${advice.text}.`))} ${text(advice.because)}`)),
  );
  section(
    partNames.suspects,
    one.suspects.flatMap((suspect) => [
      item(strong(text(`${suspect.name}, ${percentOf(suspect.probability)}`))),
      ...reasons(suspect),
    ]),
  );
  section(
    'Causes in own words',
    one.own.flatMap((hypothesis) => [
      item(`${strong(text(hypothesis.text))} (${text(hypothesis.state)})`),
      ...reasons(hypothesis),
    ]),
  );
  section(
    'Noted',
    one.moments.map(({ at, words, link }) =>
      item(at === undefined ? text(words) : `${moment(at)} ${text(words)}: ${linkAt(link ?? one.link, at)}`),
    ),
  );
  section(
    partNames.pictures,
    one.pictures.map(({ at, words, link }) => item(`${moment(at)} ${text(words)}: ${linkAt(link ?? one.link, at)}`)),
  );
  section(partNames.steps, [
    ...(one.stepsBefore ? [item(text(leftOut(one.stepsBefore, 'step')))] : []),
    ...one.steps.map((step) => {
      const line = `${moment(step.at)} ${text(step.label)}${step.note ? ` (${text(step.note)})` : ''}`;
      return item(step.failed ? strong(line) : line);
    }),
  ]);
  section(
    partNames.parted,
    one.parted.map((difference) => item(`${text(difference.summary)} (${partedCounts(difference)})`)),
  );
  if (one.console.length) {
    blocks.push(head(partNames.console));
    if (one.consoleBefore) blocks.push(text(leftOut(one.consoleBefore, 'line')));
    blocks.push(code(one.console.map(({ at, level, text: said }) => `${moment(at)} ${level} ${said}`).join('\n')));
  }
  section(
    partNames.requests,
    one.requests.map(({ at, ms, method, url, ended, answer }) =>
      item(
        `${moment(at)} ${text(`${method} ${url}: ${ended}, ${Math.round(ms)} ms`)}${answer ? `\n\n${code(answer)}` : ''}`,
      ),
    ),
  );
  section(
    partNames.circumstances,
    one.circumstances.map(({ name, value }) => item(`${text(name)}: ${text(value)}`)),
  );
  section(
    partNames.trials,
    [...one.trials, ...one.proofs].map((words) => item(text(words))),
  );
  blocks.push(text(`Written by Iskel ${one.written.version} on ${isoOf(one.written.at)}.`));
  return `${blocks.join('\n\n')}\n`;
}
