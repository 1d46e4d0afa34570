import { requestKey } from '../contrast/sketch.ts';
import { arrivedAt, type NetworkEvent } from '../evidence/event.ts';
import { duration, quote, said, shorten } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { inPassing, shownAt, shownStep, type Case } from './case.ts';
import { momentAt } from './told.ts';

/** The application's own service: its owner needs the request, the answer and how it is otherwise. */
export const tellService: Adviser = (about) => {
  const request = requestOf(about, true);
  if (!request) return [];
  const { usual, of, shown } = otherwise(about, request);
  return [
    {
      kind: 'hand-over',
      text: `Hand ${requestKey(request)} to those who run it: the test has nothing to mend. Its request and answer are on the bench, ready to copy`,
      because: `${howItEnded(request)}${of ? `; it answered well ${inPassing([usual, of])}` : ''}`,
      passing: of ? [usual, of] : null,
      failing: null,
      shown: [shownAt(about.subject, request), ...shown],
    },
  ];
};

/** An outside service: the test should not hang on it. */
export const withoutOutside: Adviser = (about) => {
  const request = requestOf(about, false);
  if (!request) return [];
  const { usual, of, shown } = otherwise(about, request);
  return [
    {
      kind: 'place',
      text: `Answer ${request.data.host} from within the test, or block it: what is tested here is not that service`,
      because: `${howItEnded(request)}${of ? `; it answered well ${inPassing([usual, of])}` : ''}`,
      passing: of ? [usual, of] : null,
      failing: null,
      shown: [shownAt(about.subject, request), ...shown],
    },
  ];
};

/** The exception, where it was thrown, and after what. */
export const tellException: Adviser = (about) => {
  const { subject, passing, clues } = about;
  const ids = new Set(clues.flatMap((clue) => clue.evidence));
  const thrown =
    subject.evidence.console.find((line) => ids.has(line.id)) ??
    subject.evidence.console.find((line) => line.kind === 'exception');
  if (!thrown) return [];
  const before = subject.evidence.steps.findLast((step) => step.at <= thrown.at);
  const where =
    thrown.data.source ?? /\bat .{0,300}?([^\s(/]{1,200}:\d{1,9}:\d{1,9})/.exec(thrown.data.stack ?? '')?.[1];
  return [
    {
      kind: 'hand-over',
      text: `Hand ${quote(shorten(thrown.data.text, 70))} to those who write the page${where ? `: it was thrown at ${shorten(where, 60)}` : ''}`,
      because: [
        ...(before
          ? [`It was thrown ${duration(Math.max(0, thrown.at - before.at))} after ${said(before.data.label)} began`]
          : []),
        ...(passing.length ? [`and ${inPassing([0, passing.length])}`] : []),
      ].join(', '),
      passing: passing.length ? [0, passing.length] : null,
      failing: null,
      shown: [shownAt(subject, thrown), ...(before ? [shownAt(subject, before)] : [])],
    },
  ];
};

/** A result that is steadily wrong: since which commit. */
export const tellResult: Adviser = (about) => {
  const { subject, step, passing } = about;
  const check = subject.evidence.notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
  const commit = subject.sketch.commit?.slice(0, 10);
  const commits = [...new Set(passing.flatMap(({ sketch }) => sketch.commit?.slice(0, 10) ?? []))].filter(
    (one) => one !== commit,
  );
  const shown = check ? shownAt(subject, check) : step && shownStep(momentAt(subject, step));
  if (!shown) return [];
  return [
    {
      kind: 'hand-over',
      text: `Hand it to those who write the application${commit && commits.length ? `: look at what changed between ${commits[0]} and ${commit}` : ''}`,
      because: `${check ? `Expected ${quote(shorten(check.data.expected ?? '', 40))}, got ${quote(shorten(check.data.actual ?? '', 40))}` : `${said(step!.label)} gave ${quote(shorten(step!.value ?? '', 40))}`} every time it was tried${commits.length ? `; attempts on ${commits.slice(0, 2).join(' and ')} pass` : ''}`,
      passing: null,
      failing: null,
      shown: [shown],
    },
  ];
};

/** What the test expects is not what the application means. */
export const mendExpectation: Adviser = ({ subject, step }) => {
  const check = subject.evidence.notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
  const shown = check ? shownAt(subject, check) : step && shownStep(momentAt(subject, step));
  if (!shown) return [];
  const [wanted, was] = [check?.data.expected, check?.data.actual];
  return [
    {
      kind: 'data',
      text:
        wanted !== undefined && was !== undefined
          ? `Ask which is meant, ${quote(shorten(wanted, 48))} or ${quote(shorten(was, 48))}; if the page is right, change what the test expects`
          : 'Ask which is meant, what the page shows or what the test expects; if the page is right, change the test',
      because:
        'The page gave it steadily, with nothing under way, and the two differ in wording only or in what was never so',
      passing: null,
      failing: null,
      shown: [shown],
    },
  ];
};

function requestOf({ subject, clues }: Case, own: boolean): NetworkEvent | undefined {
  const ids = new Set(clues.flatMap((clue) => clue.evidence));
  const { network } = subject.evidence;
  return (
    network.find((one) => ids.has(one.id) && one.data.own === own) ??
    network.find((one) => one.data.own === own && (one.data.status ?? 0) >= 400)
  );
}

const howItEnded = (request: NetworkEvent): string =>
  request.data.status && request.data.status >= 400
    ? `It answered ${request.data.status} after ${duration(arrivedAt(request) - request.at)}`
    : request.data.failed && !request.data.failed.startsWith('still')
      ? `It failed: ${request.data.failed}`
      : `It had not answered after ${duration(arrivedAt(request) - request.at)}`;

/** How the same request ends in passing attempts. */
function otherwise({ passing }: Case, request: NetworkEvent) {
  const key = requestKey(request);
  const same = passing.flatMap((told) => {
    const one = told.sketch.requests.find((other) => other.key === key);
    return one ? [{ told, one }] : [];
  });
  const well = same.filter(({ one }) => one.ended === '2xx' || one.ended === '3xx');
  return {
    usual: well.length,
    of: same.length,
    shown: well.slice(0, 1).map(({ told, one }) => ({ attempt: told.id, event: one.event, at: one.at })),
  };
}
