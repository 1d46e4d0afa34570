import { expect, it } from 'vitest';
import { locatorsUsed } from './locators-used.ts';
import { maskMark } from './masking.ts';
import { css, press, reads, step } from './samples.ts';

const find = (at: number, value: string) =>
  step(at, at + 5, { action: 'find', command: 'find element', locator: css(value) });

it('names what finds asked with, once each, in the order of first use', () => {
  const steps = [find(0, '#b'), press(10, '#b'), find(20, '#a'), reads(30, 'x', '#c'), find(40, '#b')];
  expect(locatorsUsed(steps).map(({ value }) => value)).toEqual(['#b', '#a']);
});

it('leaves out what was masked: it would ask for something else', () => {
  expect(locatorsUsed([find(0, `[data-card="${maskMark}"]`), find(10, '#a')])).toEqual([css('#a')]);
});

it('keeps an element’s own surroundings, and tells equal locators in different ones apart', () => {
  const within = { ...css('b'), within: { ...css('li'), index: 2 } };
  const steps = [css('b'), within].map((locator, i) => step(i, i + 1, { action: 'find', locator }));
  expect(locatorsUsed(steps)).toEqual([css('b'), within]);
});
