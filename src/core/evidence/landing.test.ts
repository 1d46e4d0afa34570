import { expect, it } from 'vitest';
import { nothingInFlight } from '../clues/nothing-in-flight.ts';
import { actedAt, landingOf } from './landing.ts';
import { failed, opened } from '../remedies/samples.ts';
import { exchange, page, press, step, url } from './samples.ts';

const landed = (at: number) => page(at, 'press', { label: 'button#go', x: 1, y: 1 });

it('a press acts when the page sees it, not when its command begins', () => {
  const one = { ...press(100, '#go'), until: 160 };
  expect(landingOf([landed(90), landed(140)], one)?.at).toBe(140);
  expect(actedAt([landed(140)], one)).toBe(137);
  expect(actedAt([landed(101)], one)).toBe(100);
  expect(actedAt([], one)).toBe(100);
  // Of another press, later.
  expect(actedAt([landed(300)], one)).toBe(100);
  expect(actedAt([landed(140)], step(100, 160, { action: 'read' }))).toBe(100);
});

it('what was asked for while a press was being prepared is under way when it comes', () => {
  const attempt = (askedAt: number) =>
    failed([
      ...opened(),
      { ...press(100, '#go'), until: 160 },
      exchange(askedAt, 400, { url: `${url}/api/ports` }),
      landed(140),
      step(200, 210, { action: 'read', error: { code: 'no such element', message: 'no' } }),
    ]).evidence;
  expect(nothingInFlight.find(attempt(120) as never)).toEqual([]);
  // What the press itself asked for was not.
  expect(nothingInFlight.find(attempt(141) as never)).toHaveLength(1);
});
