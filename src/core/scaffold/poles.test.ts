import { expect, it } from 'vitest';
import { prepare } from '../evidence/prepare.ts';
import { css, element, exchange, facts, line, page, step } from '../evidence/samples.ts';
import { atLevel, marksOf, polesOf } from './poles.ts';

const tries = [0, 60, 120].map((at) =>
  step(at, at + 5, {
    action: 'find',
    command: 'find element',
    locator: css('#a'),
    ...(at < 120 ? { error: { code: 'no such element', message: '' } } : {}),
  }),
);
const press = step(200, 210, { action: 'press', locator: css('#a') });
const raw = [
  ...tries,
  press,
  exchange(50, 205, { url: 'http://ferry.test/api/x' }),
  line(190, 'app ready'),
  element(100, 'appeared', 'css=#b', { node: 1 }),
  element(110, 'appeared', 'css=#a', { node: 2 }),
];
const { waits, polls } = prepare(raw, facts('passed'));
const poles = polesOf([...raw, ...waits, ...polls], 'css=#a');

it('a wait stands as one plank, its tries as polls', () => {
  expect(poles.planks.map((plank) => plank.data.action)).toEqual(['wait', 'press']);
  expect(poles.polls).toHaveLength(3);
});

it('the failing target’s lifeline stands first', () => {
  expect(poles.lifelines.map((one) => one.locator)).toEqual(['css=#a', 'css=#b']);
});

it('every plank and line asks for its room', () => {
  const marks = marksOf(poles);
  expect(marks.filter((mark) => mark.lane === 'step')).toHaveLength(2);
  expect(marks.some((mark) => mark.lane === 'console')).toBe(true);
});

it('tells what was true at one instant', () => {
  const now = atLevel(poles, 204);
  expect(now.step).toBe(press);
  expect(now.inFlight).toHaveLength(1);
  expect(now.console.map((one) => one.data.text)).toEqual(['app ready']);
  expect(atLevel(poles, 206).inFlight).toHaveLength(0);
  expect(now.screen).toBeUndefined();
});

it('knows the page by what was opened where the browser tells nothing of it', () => {
  const open = step(0, 50, { action: 'open', input: 'http://ferry.test/fares' });
  expect(atLevel(polesOf([open]), 60).address).toBe('http://ferry.test/fares');
  expect(atLevel(polesOf([open]), 20).address).toBeUndefined();
  expect(atLevel(polesOf([open, page(90, 'loaded', { address: 'http://ferry.test/x' })]), 60).address).toBeUndefined();
});

it('steps stand inside those that hold them, by what their source names or by their times', () => {
  const outer = step(0, 100, { action: 'other' });
  const inner = step(10, 60, { action: 'press' });
  const deepest = step(20, 30, { action: 'read' });
  const beside = step(100, 140, { action: 'read' });
  const told = step(200, 210, { action: 'read', parent: inner.id });
  const { depth } = polesOf([outer, inner, deepest, beside, told]);
  expect([outer, inner, deepest, beside, told].map(({ id }) => depth.get(id) ?? 0)).toEqual([0, 1, 2, 0, 2]);
});
