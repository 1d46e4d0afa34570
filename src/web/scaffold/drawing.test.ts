import { describe, expect, it } from 'vitest';
import { elasticScale } from '../../core/scaffold/elastic.ts';
import { marksOf, polesOf } from '../../core/scaffold/poles.ts';
import { element, exchange } from '../../core/evidence/samples.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { columnsOf, gutter, usualPlan, type PoleKey } from './columns.ts';
import { lifelineDrawing, linesThatFit, pennantTops, requestBars } from './drawing.ts';

const usual = new Set<PoleKey>(['step', 'wait', 'element', 'network', 'console', 'screen']);
const column = (key: string, width = 856) => columnsOf(width, usualPlan, usual).find((one) => one.key === key)!;
function drawn(events: EvidenceEvent[]) {
  const poles = polesOf(events);
  return { poles, scale: elasticScale(marksOf(poles), poles.until) };
}

describe('columns', () => {
  it.each([480, 683, 856, 1300, 1900])('fill a width of %i without overlap, each with some room', (width) => {
    const columns = columnsOf(width, usualPlan, usual);
    expect(columns[0]!.left).toBe(gutter.mini + gutter.pennant + gutter.time);
    for (let i = 1; i < columns.length; i++)
      expect(columns[i]!.left).toBeCloseTo(columns[i - 1]!.left + columns[i - 1]!.width, 6);
    expect(columns.at(-1)!.left + columns.at(-1)!.width).toBeLessThanOrEqual(Math.max(width, 480) + 1e-6);
    for (const { width: one } of columns) expect(one).toBeGreaterThan(30);
  });
});

it('a pole is shown, hidden, moved and widened as a person wants it', () => {
  const plan = usualPlan
    .map((pole) => (pole.key === 'network' ? { ...pole, show: 'no' as const } : { ...pole }))
    .toSorted((a, b) => Number(b.key === 'console') - Number(a.key === 'console'));
  const columns = columnsOf(856, plan, usual);
  expect(columns.map(({ key }) => key)).toEqual(['console', 'step', 'wait', 'element', 'screen']);
  const wide = columnsOf(
    856,
    plan.map((pole) => (pole.key === 'step' ? { ...pole, wide: 2 } : pole)),
    usual,
  );
  expect(wide[1]!.width).toBeGreaterThan(columns[1]!.width * 1.4);
  expect(wide.at(-1)!.left + wide.at(-1)!.width).toBeLessThanOrEqual(857);
});

describe('requests', () => {
  it('that overlap stand beside each other, and labels give way', () => {
    const { poles, scale } = drawn([
      exchange(0, 400, { url: 'http://ferry.test/api/fare/e-1840' }),
      exchange(5, 300, { url: 'http://weather.test/sea', host: 'weather.test', own: false }),
      exchange(350, 380, { url: 'http://ferry.test/x', status: 500 }),
    ]);
    const { bars, divide } = requestBars(poles.network, scale, column('network'));
    const own = bars.filter((bar) => bar.kind === 'own' || bar.kind === 'failed');
    expect(own.map((bar) => bar.label)).toEqual(['/fare/e-1840', '/x']);
    expect(own[0]!.left).not.toBe(own[1]!.left);
    const outside = bars.find((bar) => bar.kind === 'outside')!;
    expect(outside.label).toBe('weather.test');
    expect(outside.left).toBeGreaterThan(divide!);
    for (const bar of own) expect(bar.left + 8).toBeLessThan(divide!);
  });

  it('are tied to the answer whose script asked for them, and show how long the first byte took', () => {
    const script = exchange(0, 100, { url: 'http://ferry.test/shop.js', type: 'script' });
    const asked = exchange(150, 400, {
      url: 'http://ferry.test/api/fare',
      initiator: 'http://ferry.test/shop.js:41',
      firstByteMs: 200,
    });
    const { poles, scale } = drawn([script, asked]);
    const { bars, ties } = requestBars(poles.network, scale, column('network'));
    expect(ties.map(({ from, to }) => [from, to])).toEqual([[script.id, asked.id]]);
    expect(bars.find(({ id }) => id === asked.id)!.waiting).toBeCloseTo(scale.y(350) - scale.y(150), 3);
  });

  it('however many there are, none leaves its column', () => {
    const many = Array.from({ length: 60 }, (_, i) => exchange(i, 900, { url: `http://ferry.test/${i}` }));
    const { poles, scale } = drawn(many);
    const { left, width } = column('network');
    for (const bar of requestBars(poles.network, scale, column('network')).bars) {
      expect(bar.left).toBeGreaterThanOrEqual(left);
      expect(bar.left + 8).toBeLessThanOrEqual(left + width);
    }
  });
});

describe('lifelines', () => {
  const events = [
    element(0, 'absent', 'css=#hold', { node: null }),
    element(50, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat', visible: true }),
    element(400, 'replaced', 'css=#hold', { node: 2, name: 'Hold seat', visible: true }),
    element(800, 'covered', 'css=#hold', { node: 2, name: 'Hold seat', visible: true, coveredBy: 'div' }),
    exchange(0, 1000, { url: 'http://ferry.test/' }),
  ];

  it('tell presence by shape, another node by its generation', () => {
    const { poles, scale } = drawn(events);
    const { segments } = lifelineDrawing(poles, scale, column('element'));
    expect(segments.map((s) => [s.presence, s.generation])).toEqual([
      ['absent', 0],
      ['visible', 0],
      ['visible', 1],
      ['covered', 1],
    ]);
    expect(segments[2]!.replaced).toBe(true);
    for (let i = 1; i < segments.length; i++) expect(segments[i]!.top).toBeGreaterThanOrEqual(segments[i - 1]!.top);
  });

  it('are named where they begin, and say what became of them; labels of one line never touch', () => {
    const { poles, scale } = drawn(events);
    const { labels } = lifelineDrawing(poles, scale, column('element'));
    expect(labels.map((label) => label.kind)).toContain('replaced');
    const sorted = [...labels].sort((a, b) => a.top - b.top);
    for (let i = 1; i < sorted.length; i++)
      expect(sorted[i]!.top).toBeGreaterThanOrEqual(sorted[i - 1]!.top + sorted[i - 1]!.height - 1e-6);
  });

  it('show as many as fit', () => {
    const many = Array.from({ length: 30 }, (_, i) =>
      element(i, 'appeared', `css=#e${i}`, { node: i + 1, visible: true }),
    );
    const { poles, scale } = drawn(many);
    const { segments } = lifelineDrawing(poles, scale, column('element'));
    expect(new Set(segments.map((s) => s.left)).size).toBe(linesThatFit(column('element')));
  });
});

it('pennants at nearly the same time stand below each other, in their order', () => {
  const scale = elasticScale([], 1000);
  const tops = pennantTops([500, 501, 100], scale);
  expect(tops[2]).toBeLessThan(tops[0]!);
  expect(tops[1]! - tops[0]!).toBeGreaterThanOrEqual(19);
});
