import { describe, expect, it } from 'vitest';
import { check, facts } from '../evidence/samples.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

/** Clues that a report gives by its message alone: no step, no request, no picture. */

const codes = (message: string, label?: string): string[] => {
  const notes = label ? [{ ...check(10, false, '', ''), data: { label, ok: false } }] : [];
  return findClues(sceneOf(notes as never, facts('failed', message))).map(({ code }) => code);
};
const differs = (expected: string, actual: string, label = 'value'): string =>
  `${label}: expected "${expected}" but got "${actual}"`;

describe('of a check that failed', () => {
  it.each([
    ['part-of-expected', differs('Kept Karaca', 'Kept')],
    ['part-of-expected', differs('We call 5550114477', 'We call 5550')],
    ['fewer-than-expected', differs('5', '2')],
    ['another-heading', differs('My trips', 'Profile', 'heading')],
    ['another-heading', differs('/receipt', '/basket', 'address')],
    ['trouble-told', differs('Soup ordered', 'Something went wrong')],
    ['trouble-told', differs('calm', 'The forecast is not available')],
    ['refusal-told', differs('Passenger added', 'Name not valid')],
    ['refusal-told', differs('Booked', 'Too many for one booking')],
  ])('%s: %s', (code, message) => expect(codes(message)).toContain(code));

  it.each([
    // Longer than what was expected, or alike by a letter.
    ['part-of-expected', differs('Kept', 'Kept Karaca')],
    ['part-of-expected', differs('412 €', '4')],
    // More, nothing at all, or a number that is no count.
    ['fewer-than-expected', differs('2', '5')],
    ['fewer-than-expected', differs('5', '0')],
    ['fewer-than-expected', differs('442', '412')],
    ['another-heading', differs('412', '442', 'fare')],
    ['another-heading', differs('My trips', '', 'heading')],
    // Expected to fail, and failed otherwise.
    ['trouble-told', differs('Something went wrong', 'Something went wrong, try again later')],
    ['refusal-told', differs('Name not valid', 'Surname not valid')],
    ['trouble-told', differs('Booked', 'Held')],
    ['refusal-told', differs('Booked', 'Held')],
  ])('not %s: %s', (code, message) => expect(codes(message)).not.toContain(code));

  it('takes what a page is known by from the check’s own label', () => {
    expect(codes('expected "My trips" but got "Profile"', 'page title')).toContain('another-heading');
    expect(codes('expected "My trips" but got "Profile"', 'trip')).not.toContain('another-heading');
  });
});

it('tells that nothing matched, with the locator where the message has it', () => {
  const message = 'no such element: Unable to locate element: {"method":"css selector","selector":"#card-number"}';
  const found = findClues(sceneOf([], facts('failed', message))).find(({ code }) => code === 'no-element-told');
  expect(found!.summary).toBe('“#card-number” matched nothing');
  expect(codes('stale element reference: stale element not found')).not.toContain('no-element-told');
});
