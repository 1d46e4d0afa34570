import { describe, expect, it } from 'vitest';
import type { EvidenceEvent, ScreenEvent } from '../evidence/event.ts';
import { css, element, step } from '../evidence/samples.ts';
import { atLevel, polesOf } from './poles.ts';
import { onScreen, windowSize } from './at-screen.ts';

const key = 'css selector=#hold';
const box = { x: 100, y: 50, width: 120, height: 40 };
const pressing = step(100, 140, { action: 'press', locator: css('#hold') });
const press = (data: object): EvidenceEvent => ({
  id: 'press',
  lane: 'page',
  kind: 'press',
  at: 120,
  clock: 'page',
  data: { x: 160, y: 70, label: 'button#hold', ...data },
});
const draw = (events: EvidenceEvent[], failure?: Parameters<typeof onScreen>[4]) => {
  const poles = polesOf([pressing, ...events]);
  return onScreen(poles, 130, pressing, key, failure);
};
const line = (state: object): EvidenceEvent => element(10, 'appeared', key, { node: 1, visible: true, box, ...state });

describe('what is drawn over a picture', () => {
  it('is the target and where it was pressed', () => {
    const drawn = draw([line({}), press({})]);
    expect(drawn.box).toEqual(box);
    expect(drawn.press).toEqual({ x: 160, y: 70, missed: false, reached: 'button#hold' });
  });

  it('in a frame is moved to where the frame stands', () => {
    const offset = { x: 30, y: 400 };
    const drawn = draw([line({ offset }), press({ offset })]);
    expect(drawn.box).toEqual({ ...box, x: 130, y: 450 });
    expect(drawn.press).toMatchObject({ x: 190, y: 470 });
  });

  it('in a frame of another host is nothing, and says so', () => {
    const drawn = draw([line({ offset: null }), press({ offset: null })], { step: pressing.id });
    expect(drawn).toMatchObject({ box: undefined, press: undefined, unplaced: true });
  });

  it('a press that was refused is where the driver says, with what lay there', () => {
    const failure = { step: pressing.id, point: { x: 5, y: 6 }, obstructing: 'div.notice' };
    expect(draw([line({ offset: { x: 10, y: 10 } })], failure).press).toEqual({
      x: 15,
      y: 16,
      missed: true,
      reached: 'div.notice',
    });
  });

  it('a press that never reached the page was meant for the middle of its target', () => {
    expect(draw([line({})], { step: pressing.id }).press).toEqual({ x: 160, y: 70, missed: true });
  });

  it('tells another node from the first', () => {
    const replaced = element(60, 'replaced', key, { node: 2, visible: true, box });
    expect(draw([line({}), replaced]).replaced).toBe(true);
    expect(draw([line({})]).replaced).toBe(false);
  });
});

const picture = (at: number, data: Partial<ScreenEvent['data']>, kind: ScreenEvent['kind'] = 'frame'): ScreenEvent => ({
  id: `s${at}`,
  lane: 'screen',
  kind,
  at,
  clock: 'browser',
  data: { blob: `b${at}`, mime: 'image/jpeg', width: 1280, height: 800, scale: 1, ...data },
});

it('a window is as large as its pixels by how many make one', () => {
  expect(windowSize(picture(0, { mime: 'image/png', width: 1920, height: 1200, scale: 1.5 }, 'screenshot'))).toEqual({
    width: 1280,
    height: 800,
  });
  expect(windowSize(picture(0, { scale: 2 }))).toEqual({ width: 1280, height: 800 });
});

it('the picture of the window looked at goes before those of others, and parts of a page are none', () => {
  const poles = polesOf([
    picture(10, { context: 'one' }),
    picture(20, { context: 'two' }),
    picture(25, { part: true }, 'screenshot'),
  ]);
  expect(atLevel(poles, 30, 'one').screen!.event.id).toBe('s10');
  expect(atLevel(poles, 30).screen!.event.id).toBe('s20');
});
