import { endOf, type NetworkEvent } from '../../core/evidence/event.ts';
import { pathOf, shorten } from '../../core/evidence/labels.ts';
import { presenceOf, type Presence } from '../../core/evidence/lifelines.ts';
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
  label: string;
  showLabel: boolean;
  kind: 'own' | 'outside' | 'failed';
}

export interface LineSegment {
  id: string;
  left: number;
  top: number;
  height: number;
  presence: Presence;
  /** Odd when the node is another one than before. */
  generation: number;
  replaced: boolean;
}

export interface LineLabel {
  text: string;
  left: number;
  top: number;
  height: number;
  kind: 'name' | 'replaced' | 'removed' | 'covered';
}

const barWidth = 8;
const trackWidth = 15;
const lineWidth = 9;
export const lineGap = 30;

export function requestBars(network: readonly NetworkEvent[], scale: ElasticScale, column: Column): RequestBar[] {
  const bars = network.map((request) => {
    const top = scale.y(request.at);
    return { request, top, height: Math.max(5, scale.y(endOf(request)) - top) };
  });
  const tracks = tracksOf(bars);
  const most = Math.max(1, Math.floor((column.width - 14) / trackWidth));
  const drawn = bars.map((bar, i) => ({
    ...bar,
    left: column.left + 10 + Math.min(tracks[i]!, most - 1) * trackWidth,
  }));
  const obstacles: Label[] = drawn.map(({ left, top, height }) => ({ left, top, width: barWidth, height }));
  const labels: Label[] = drawn.map(({ left, top, request }) => ({
    left: left + barWidth + 3,
    top: top - 2,
    width: Math.min(labelOf(request).length * 6.6, column.left + column.width - left - barWidth - 8),
    height: room.request,
  }));
  const fits = labelsThatFit(labels, obstacles);
  return drawn.map(({ request, left, top, height }, i) => ({
    id: request.id,
    left,
    top,
    height,
    label: labelOf(request),
    showLabel: fits[i]! && labels[i]!.width > 34,
    kind: request.data.failed || (request.data.status ?? 0) >= 400 ? 'failed' : request.data.own ? 'own' : 'outside',
  }));
}

const labelOf = (request: NetworkEvent): string => {
  const path = request.data.own ? pathOf(request.data.url).split('?')[0]! : request.data.host;
  const name = request.data.own && path.split('/').length > 3 ? `/${path.split('/').slice(-2).join('/')}` : path;
  return shorten(name, 26);
};

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
      labels.push({ text, left: left + lineWidth + 2, top, height, kind });
    };
    let generation = 0;
    let node: number | null = null;
    const replacements = line.segments.filter(
      (s) => s.kind === 'replaced' || s.kind === 'removed' || s.kind === 'covered',
    );
    for (const s of replacements)
      label(s.kind, scale.y(s.from) + 1, Math.max(0, scale.height - scale.y(s.from)), s.kind as LineLabel['kind']);
    const first = line.segments.find((s) => s.state.node !== null) ?? line.segments[0];
    if (first)
      label(
        shorten(line.label || first.state.name || line.locator.replace(/^\w+=/, ''), 24),
        scale.y(first.from) + 1,
        Math.max(40, scale.height - scale.y(first.from)),
        'name',
      );
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
      });
    }
  });
  return { segments, labels };
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
