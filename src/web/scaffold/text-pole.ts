import { holdsKeys } from '../../core/evidence/keys.ts';
import type { ConsoleEvent, NoteEvent, PageEvent, ServiceEvent, StepEvent } from '../../core/evidence/event.ts';
import { endOf } from '../../core/evidence/event.ts';
import { pathOf, quote, shorten } from '../../core/evidence/labels.ts';
import type { ElasticScale } from '../../core/scaffold/elastic.ts';
import { room } from '../../core/scaffold/poles.ts';

/** One thing on a pole that is read: its words give way where they would touch others. */
export interface TextItem {
  id: string;
  at: number;
  until?: number;
  text: string;
  tone: 'plain' | 'soft' | 'sea' | 'brick' | 'amber' | 'violet';
  /** Shape of the mark, so that colour is not alone in telling. */
  mark: 'bar' | 'wide' | 'ring' | 'block' | 'gap' | 'span';
}

export interface DrawnText extends TextItem {
  top: number;
  height: number;
  /** How many equal ones this line stands for. */
  count: number;
  show: boolean;
}

/** Equal lines no further apart than this are one line with a count, pixels. */
const repeatWithin = 90;

/** Lays lines down at their times; equal lines that follow each other closely are one line with a count. */
export function layText(items: readonly TextItem[], scale: ElasticScale, line = room.line - 1): DrawnText[] {
  const out: DrawnText[] = [];
  let free = -Infinity;
  let said: DrawnText | undefined;
  let last = -Infinity;
  for (const item of items) {
    const top = scale.y(item.at);
    const height = item.until === undefined ? 11 : Math.max(3, scale.y(item.until) - top);
    const drawn = { ...item, top, height, count: 1, show: false };
    if (said && said.text === item.text && said.tone === item.tone && top - last <= repeatWithin) {
      said.count++;
    } else if (top >= free) {
      drawn.show = true;
      free = top + line;
      said = drawn;
    } else said = undefined;
    last = top;
    out.push(drawn);
  }
  return out;
}

export const consoleItems = (lines: readonly ConsoleEvent[]): TextItem[] =>
  lines.map((line) => ({
    id: line.id,
    at: line.at,
    text: line.data.text,
    tone: line.data.level === 'error' ? 'brick' : line.data.level === 'warning' ? 'amber' : 'plain',
    mark: line.data.level === 'error' ? 'block' : line.data.level === 'warning' ? 'wide' : 'bar',
  }));

/** What services did: how long each took, and whether it failed. */
export const serviceItems = (spans: readonly ServiceEvent[]): TextItem[] =>
  spans.map(({ id, at, until, data }) => ({
    id,
    at,
    ...(until === undefined ? {} : { until }),
    text: data.ok === false ? `${data.label}, failed` : data.label,
    tone: data.ok === false ? 'brick' : 'plain',
    mark: 'span',
  }));

export const noteItems = (notes: readonly NoteEvent[]): TextItem[] =>
  notes.map(({ id, at, data, kind }) => ({
    id,
    at,
    text:
      kind === 'check'
        ? `${data.ok === false ? 'check failed' : 'check'}: ${data.label}${data.ok === false && data.expected !== undefined ? `, expected ${quote(shorten(data.expected, 40))}, got ${quote(shorten(data.actual ?? '', 40))}` : ''}`
        : data.label,
    tone: data.ok === false ? 'brick' : data.ok ? 'sea' : 'plain',
    mark: data.ok === false ? 'block' : data.ok ? 'ring' : 'bar',
  }));

const pageWords: Partial<Record<PageEvent['kind'], string>> = {
  'dom-ready': 'document read',
  loaded: 'loaded',
};

/** What the page did: addresses and load phases, bursts of change, shifts, focus, typed against held. */
export function pageItems(page: readonly PageEvent[], steps: readonly StepEvent[]): TextItem[] {
  return page.flatMap((event): TextItem[] => {
    const { id, at, data, kind } = event;
    const item = (text: string, tone: TextItem['tone'], mark: TextItem['mark'], until?: number): TextItem[] => [
      { id, at, text, tone, mark, ...(until === undefined ? {} : { until }) },
    ];
    switch (kind) {
      case 'navigation-started':
        return item(`leaving for ${pathOf(data.address ?? '')}`, 'soft', 'ring');
      case 'navigation-committed':
      case 'fragment':
        return item(pathOf(data.address ?? ''), 'sea', 'wide');
      case 'dom-ready':
      case 'loaded':
        return item(pageWords[kind]!, 'soft', 'bar');
      case 'title':
        return item(`title ${quote(shorten(data.title ?? '', 40))}`, 'soft', 'bar');
      case 'mutations':
        return item(`${data.count} changes`, 'soft', 'gap', endOf(event));
      case 'layout-shift':
        return item(`layout shifted by ${(data.value ?? 0).toFixed(3)}`, 'violet', 'wide');
      case 'focus':
        return item(`focus on ${data.label}`, 'plain', 'ring');
      case 'held-value':
        return item(heldWords(event, steps), heldOther(event, steps) ? 'brick' : 'plain', 'wide');
      case 'structure':
        return item(`structure kept, ${data.count} elements`, 'soft', 'bar');
      // They hold for the whole of an attempt, and are shown beside it.
      case 'circumstances':
      case 'machine':
        return [];
      case 'press':
        return item(`press reached ${data.label}`, 'plain', 'block');
    }
  });
}

const heldWords = (event: PageEvent, steps: readonly StepEvent[]): string => {
  const typed = heldOther(event, steps);
  return `holds ${quote(event.data.text ?? '')}${typed ? `, typed ${quote(typed)}` : ''}`;
};

/** How long after its typing a field may still be on the way to what was typed, ms. */
const typingMs = 80;

/** What was typed, where a field holds something else once the typing is over. */
export function heldOther(event: PageEvent, steps: readonly StepEvent[]): string | undefined {
  const typing = steps.findLast((step) => step.data.action === 'type' && step.at <= event.at);
  const typed = typing?.data.input;
  const held = event.data.text;
  // What keys without a character make of a field, nobody can tell from what was sent.
  if (
    !typing ||
    !typed ||
    !held ||
    holdsKeys(typed) ||
    event.at < endOf(typing) - typingMs ||
    held.includes('«masked»')
  )
    return undefined;
  return held.includes(typed) || typed.includes('«masked»') ? undefined : typed;
}
