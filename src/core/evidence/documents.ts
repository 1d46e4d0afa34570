import { endOf, type PageEvent } from './event.ts';
import { elementsOf, titleOf, treeOf, type MarkupElement, type Tree } from './markup.ts';
import type { Evidence } from './prepare.ts';

/** Reads the text of a kept document by its blob; undefined where it is gone. */
export type ReadMarkup = (blob: string) => string | undefined;

/** A window's page as it was written down. */
export interface PageWritten {
  event: string;
  at: number;
  context: string | undefined;
  title: string;
  elements: readonly MarkupElement[];
}

type Parsed = Pick<PageWritten, 'title' | 'elements'>;

/** What was parsed, by who reads it: several clues and remedies ask for the same few documents. */
const remembered = new WeakMap<ReadMarkup, Map<string, Parsed | undefined>>();

function parsed(blob: string, read: ReadMarkup): Parsed | undefined {
  const mine = remembered.get(read) ?? new Map<string, Parsed | undefined>();
  remembered.set(read, mine);
  if (!mine.has(blob)) {
    const text = read(blob);
    mine.set(blob, text === undefined ? undefined : { title: titleOf(text), elements: elementsOf(text) });
  }
  return mine.get(blob);
}

function written({ id, at, data }: PageEvent, read: ReadMarkup): PageWritten | undefined {
  const found = data.blob === undefined ? undefined : parsed(data.blob, read);
  return found && { event: id, at, context: data.context, ...found };
}

const structures = ({ page }: Evidence, context: string | undefined): PageEvent[] =>
  page.filter(
    ({ kind, data }) =>
      kind === 'structure' &&
      data.blob !== undefined &&
      (context === undefined || data.context === undefined || data.context === context),
  );

/** From when to when the page stood in its window that was there at a time, ms. */
function stay({ page }: Evidence, context: string | undefined, at: number): [number, number] {
  const arrivals = page.filter(
    ({ kind, data }) =>
      kind === 'navigation-committed' &&
      (context === undefined || data.context === undefined || data.context === context),
  );
  return [
    arrivals.findLast((one) => one.at <= at)?.at ?? -Infinity,
    arrivals.find((one) => one.at > at)?.at ?? Infinity,
  ];
}

/**
 * The document of a window nearest to a time, of the page that stood there then.
 * @param context the window or frame; undefined where nothing tells which
 */
export function writtenAt(
  evidence: Evidence,
  context: string | undefined,
  at: number,
  read: ReadMarkup,
): PageWritten | undefined {
  const near = nearestTo(evidence, context, at);
  return near && written(near, read);
}

function nearestTo(evidence: Evidence, context: string | undefined, at: number): PageEvent | undefined {
  const [from, until] = stay(evidence, context, at);
  return structures(evidence, context)
    .filter((one) => one.at >= from && one.at < until)
    .sort((a, b) => Math.abs(a.at - at) - Math.abs(b.at - at))[0];
}

/** The same document as a tree, for questions about what lies in what. Parsed anew each time. */
export function treeAt(
  evidence: Evidence,
  context: string | undefined,
  at: number,
  read: ReadMarkup,
): Tree | undefined {
  const blob = nearestTo(evidence, context, at)?.data.blob;
  const text = blob === undefined ? undefined : read(blob);
  return text === undefined ? undefined : treeOf(text);
}

/** The last document of the page that stands in a window at a time, written down before another. */
export function writtenBefore(
  evidence: Evidence,
  context: string | undefined,
  at: number,
  before: number,
  read: ReadMarkup,
): PageWritten | undefined {
  const [from] = stay(evidence, context, at);
  const last = structures(evidence, context).findLast((one) => one.at >= from && one.at < before);
  return last && written(last, read);
}

/** The documents of all other windows and frames that were open at a time. */
export function writtenElsewhere(
  evidence: Evidence,
  own: string | undefined,
  at: number,
  read: ReadMarkup,
): PageWritten[] {
  if (own === undefined) return [];
  const { window: windows } = evidence;
  const closed = new Set(
    windows.filter(({ kind, at: when }) => kind === 'closed' && when <= at).map(({ data }) => data.context),
  );
  const contexts = new Set(
    structures(evidence, undefined).flatMap(({ data }) =>
      data.context === undefined || data.context === own || closed.has(data.context) ? [] : [data.context],
    ),
  );
  return [...contexts].flatMap((context) => writtenAt(evidence, context, at, read) ?? []);
}

/** When an attempt stood before what it failed at, ms. */
export const failedAt = ({ failing, until }: Evidence): number => (failing ? endOf(failing) : until);
