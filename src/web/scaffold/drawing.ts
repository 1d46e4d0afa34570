import { endOf, type ElementState, type NetworkEvent } from '../../core/evidence/event.ts';
import { pathOf, shorten } from '../../core/evidence/labels.ts';
import { presenceOf, type Lifeline, type Presence } from '../../core/evidence/lifelines.ts';
import type { ElasticScale } from '../../core/scaffold/elastic.ts';
import { room, type Poles } from '../../core/scaffold/poles.ts';
import { labelsThatFit, tracksOf, type Label } from '../../core/scaffold/tracks.ts';
import type { Column } from './columns.ts';

/** What is drawn on each pole, in pixels: made once for a scale, shown as far as it is in sight. */
export interface RequestBar {
  id: string;
  left: number;
  top: number;
  height: number;
  at: number;
  /** Pixels of it that waited for the first byte; 0 when that is not told. */
  waiting: number;
  label: string;
  /** Of the label, pixels. */
  width: number;
  showLabel: boolean;
  kind: 'own' | 'outside' | 'failed';
}

/** Who asked for a request: the script or document whose answer did. */
export interface RequestTie {
  from: string;
  to: string;
  top: number;
  height: number;
  path: string;
}

export interface LineSegment {
  id: string;
  left: number;
  top: number;
  height: number;
  presence: Presence;
  /** Its box changed without anything else. */
  moved: boolean;
  /** How many elements the locator matched. */
  matches: number;
  /** Odd when the node is another one than before. */
  generation: number;
  replaced: boolean;
}

export interface LineLabel {
  key: string;
  text: string;
  left: number;
  top: number;
  height: number;
  kind: 'name' | 'replaced' | 'removed' | 'covered' | 'changed' | 'moved' | 'several';
}

const barWidth = 8;
const trackWidth = 15;
const lineWidth = 9;
export const lineGap = 30;

export function requestBars(
  network: readonly NetworkEvent[],
  scale: ElasticScale,
  column: Column,
): { bars: RequestBar[]; ties: RequestTie[]; divide?: number } {
  const outside = network.some((request) => !request.data.own);
  const own = network.some((request) => request.data.own);
  // Own hosts stand left of the line, outside ones right of it, each side as wide as its share of tracks.
  const divide = own && outside ? column.left + 8 + (column.width - 14) * 0.5 : undefined;
  const sides = [
    { mine: true, left: column.left + 10, end: divide ?? column.left + column.width },
    { mine: false, left: divide ? divide + 6 : column.left + 10, end: column.left + column.width },
  ];
  const drawn = sides.flatMap(({ mine, left, end }) => {
    const bars = network
      .filter((request) => request.data.own === mine)
      .map((request) => {
        const top = scale.y(request.at);
        return { request, top, height: Math.max(5, scale.y(endOf(request)) - top) };
      });
    const tracks = tracksOf(bars);
    const most = Math.max(1, Math.floor((end - left - 4) / trackWidth));
    return bars.map((bar, i) => ({ ...bar, left: left + Math.min(tracks[i]!, most - 1) * trackWidth }));
  });
  const obstacles: Label[] = drawn.map(({ left, top, height }) => ({ left, top, width: barWidth, height }));
  const labels: Label[] = drawn.map(({ left, top, request }) => ({
    left: left + barWidth + 3,
    top: top - 2,
    // A label of an own request may reach over the line, where nothing stands there.
    width: Math.min(labelOf(request).length * 6.6, column.left + column.width - left - barWidth - 8),
    height: room.request,
  }));
  const fits = labelsThatFit(labels, obstacles);
  const bars = drawn.map(({ request, left, top, height }, i): RequestBar => {
    const first = waitedFor(request);
    return {
      id: request.id,
      left,
      top,
      height,
      at: request.at,
      waiting: first === undefined ? 0 : Math.min(height, Math.max(0, scale.y(request.at + first) - top)),
      label: labelOf(request),
      width: labels[i]!.width,
      showLabel: fits[i]! && labels[i]!.width > 34,
      kind: isFailed(request) ? 'failed' : request.data.own ? 'own' : 'outside',
    };
  });
  return { bars, ties: tiesOf(drawn), ...(divide === undefined ? {} : { divide }) };
}

/** How long a request waited for its first byte, ms, as far as it is told. */
export function waitedFor({ data }: NetworkEvent): number | undefined {
  if (data.firstByteMs !== undefined) return data.firstByteMs;
  if (!data.phases) return undefined;
  return Object.entries(data.phases).reduce((sum, [name, ms]) => (name === 'receive' ? sum : sum + Math.max(0, ms)), 0);
}

export const isFailed = ({ data }: NetworkEvent): boolean => Boolean(data.failed) || (data.status ?? 0) >= 400;

/** Lines from the answer that asked for another request to that request. */
function tiesOf(drawn: readonly { request: NetworkEvent; left: number; top: number; height: number }[]): RequestTie[] {
  const byUrl = new Map<string, (typeof drawn)[number]>();
  const ties: RequestTie[] = [];
  for (const bar of [...drawn].sort((a, b) => a.top - b.top)) {
    const from = byUrl.get((bar.request.data.initiator ?? '').replace(/:\d+$/, ''));
    if (from && from !== bar)
      ties.push({
        from: from.request.id,
        to: bar.request.id,
        top: Math.min(from.top + from.height, bar.top),
        height: Math.abs(bar.top - from.top - from.height),
        path: `M ${from.left + barWidth / 2} ${Math.min(from.top + from.height, bar.top)} V ${bar.top + 2.5} H ${bar.left}`,
      });
    byUrl.set(bar.request.data.url, bar);
  }
  return ties;
}

const labelOf = (request: NetworkEvent): string => {
  let label = named.get(request);
  if (label === undefined) {
    const path = request.data.own ? pathOf(request.data.url).split('?')[0]! : request.data.host;
    const name = request.data.own && path.split('/').length > 3 ? `/${path.split('/').slice(-2).join('/')}` : path;
    named.set(request, (label = shorten(name, 26)));
  }
  return label;
};
/** Reading addresses is the dearest part of drawing them: each is read once. */
const named = new WeakMap<NetworkEvent, string>();

/** How many lifelines fit in a column. */
export const linesThatFit = (column: Column): number => Math.max(1, Math.floor((column.width - 14) / lineGap));

export function lifelineDrawing(
  poles: Poles,
  scale: ElasticScale,
  column: Column,
): { segments: LineSegment[]; labels: LineLabel[] } {
  const segments: LineSegment[] = [];
  const labels: LineLabel[] = [];
  poles.lifelines.slice(0, linesThatFit(column)).forEach((line, i) => {
    const left = column.left + 12 + i * lineGap;
    const taken: { top: number; end: number }[] = [];
    const label = (text: string, top: number, most: number, kind: LineLabel['kind']): void => {
      const height = Math.min(text.length * 6.4 + 6, most);
      if (height < 14 || taken.some((other) => top < other.end && other.top < top + height)) return;
      taken.push({ top, end: top + height });
      labels.push({
        key: `${line.locator} ${kind} ${labels.length}`,
        text,
        left: left + lineWidth + 2,
        top,
        height,
        kind,
      });
    };
    let generation = 0;
    let node: number | null = null;
    const foot = (at: number): number => Math.max(0, scale.height - scale.y(at));
    for (const s of line.segments)
      if (s.kind === 'replaced' || s.kind === 'removed' || s.kind === 'covered')
        label(s.kind, scale.y(s.from) + 1, foot(s.from), s.kind);
    const first = line.segments.find((s) => s.state.node !== null) ?? line.segments[0];
    if (first)
      label(
        shorten(line.label || first.state.name || line.locator.replace(/^\w+=/, ''), 24),
        scale.y(first.from) + 1,
        Math.max(40, foot(first.from)),
        'name',
      );
    for (const words of lesserWords(line.segments))
      label(words.text, scale.y(words.at) + 1, foot(words.at), words.kind);
    for (const s of line.segments) {
      if (s.state.node !== null) {
        if (node !== null && s.state.node !== node) generation++;
        node = s.state.node;
      }
      const top = scale.y(s.from);
      segments.push({
        id: s.event,
        left,
        top,
        height: Math.max(2, scale.y(s.until) - top),
        presence: presenceOf(s.state),
        generation,
        replaced: s.kind === 'replaced',
        moved: s.kind === 'moved',
        matches: s.state.count,
      });
    }
  });
  return { segments, labels };
}

/** What also became of an element, for where there is room left: more matches, what changed, that it moved. */
function lesserWords(segments: Lifeline['segments']): { text: string; at: number; kind: LineLabel['kind'] }[] {
  const out: { text: string; at: number; kind: LineLabel['kind'] }[] = [];
  let before: Lifeline['segments'][number] | undefined;
  for (const s of segments) {
    if (s.state.count > 1 && s.state.count !== before?.state.count)
      out.push({ text: `${s.state.count} match`, at: s.from, kind: 'several' });
    else if (s.kind === 'changed' && before)
      out.push({ text: changeWords(before.state, s.state), at: s.from, kind: 'changed' });
    else if (s.kind === 'moved' && before?.kind !== 'moved') out.push({ text: 'moves', at: s.from, kind: 'moved' });
    before = s;
  }
  return out.filter(({ text }) => text !== '');
}

function changeWords(before: ElementState, after: ElementState): string {
  if (before.text !== after.text) return shorten(`reads ${after.text || 'nothing'}`, 22);
  if (before.visible !== after.visible) return after.visible ? 'shown' : 'hidden';
  if (before.enabled !== after.enabled) return after.enabled ? 'enabled' : 'disabled';
  const key = Object.keys({ ...before.attrs, ...after.attrs }).find(
    (one) => before.attrs?.[one] !== after.attrs?.[one],
  );
  return key ? shorten(`${key} ${after.attrs?.[key] ?? 'gone'}`, 22) : '';
}

/** Pennants of clues: each at its time, pushed down where two would touch. */
export function pennantTops(times: readonly number[], scale: ElasticScale, height = 19): number[] {
  const order = times.map((at, i) => ({ top: scale.y(at), i })).sort((a, b) => a.top - b.top);
  const tops: number[] = [];
  let floor = -Infinity;
  for (const { top, i } of order) {
    tops[i] = Math.max(top, floor);
    floor = tops[i]! + height;
  }
  return tops;
}
