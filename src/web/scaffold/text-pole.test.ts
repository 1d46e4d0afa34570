import { describe, expect, it } from 'vitest';
import type { EvidenceEvent, PageEvent, WindowEvent } from '../../core/evidence/event.ts';
import { eventsOf } from '../../core/evidence/event.ts';
import { check, css, line, step } from '../../core/evidence/samples.ts';
import { trueScale } from '../../core/scaffold/elastic.ts';
import { consoleItems, heldOther, layText, noteItems, pageItems, serviceItems } from './text-pole.ts';
import { windowAt, windowsOf } from './windows.ts';

const page = (at: number, kind: PageEvent['kind'], data: PageEvent['data']): PageEvent => ({
  id: `p${at}`,
  lane: 'page',
  kind,
  at,
  clock: 'page',
  data,
});
const lines = (...events: EvidenceEvent[]) => consoleItems(eventsOf(events, 'console'));

describe('words on a pole', () => {
  it('give way where they would touch, and equal ones are counted', () => {
    const drawn = layText(
      lines(line(0, 'tide'), line(5, 'tide'), line(9, 'tide'), line(10, 'storm'), line(40, 'storm')),
      trueScale(100, 1),
    );
    expect(drawn.map(({ show, count }) => [show, count])).toEqual([
      [true, 3],
      [false, 1],
      [false, 1],
      [false, 1],
      [true, 1],
    ]);
  });

  it('equal lines far apart are said again', () => {
    const drawn = layText(lines(line(0, 'tide'), line(500, 'tide')), trueScale(1000, 1));
    expect(drawn.map(({ show }) => show)).toEqual([true, true]);
  });

  it('tell levels by shape, and checks with what was expected', () => {
    expect(lines(line(0, 'a', 'error'), line(1, 'b', 'warning'), line(2, 'c')).map(({ mark }) => mark)).toEqual([
      'block',
      'wide',
      'bar',
    ]);
    const [failed] = noteItems(eventsOf([check(3, false, 'Kuzu Island', 'Lodos Harbour')], 'note'));
    expect(failed!.text).toContain('expected “Kuzu Island”, got “Lodos Harbour”');
  });
});

describe('what a field holds', () => {
  const typing = step(100, 200, { action: 'type', locator: css('#name'), input: 'Deniz O’Rourke' });
  it('is told against what was typed, once the typing is over', () => {
    const lost = page(300, 'held-value', { text: 'Deniz', label: 'input#name' });
    expect(heldOther(lost, [typing])).toBe('Deniz O’Rourke');
    expect(pageItems([lost], [typing])[0]).toMatchObject({
      tone: 'brick',
      text: 'holds “Deniz”, typed “Deniz O’Rourke”',
    });
    expect(heldOther(page(110, 'held-value', { text: 'De', label: 'input#name' }), [typing])).toBeUndefined();
    expect(heldOther(page(300, 'held-value', { text: 'Deniz O’Rourke', label: 'x' }), [typing])).toBeUndefined();
    expect(heldOther(page(300, 'held-value', { text: '«masked»', label: 'x' }), [typing])).toBeUndefined();
  });
});

describe('windows', () => {
  const event = (at: number, kind: WindowEvent['kind'], context: string, more: object = {}): WindowEvent => ({
    id: `w${at}`,
    lane: 'window',
    kind,
    at,
    clock: 'recorder',
    data: { context, ...more },
  });
  const windows = windowsOf(
    [
      event(0, 'opened', 'A'),
      event(100, 'opened', 'B'),
      event(150, 'dialog-opened', 'B', { dialog: 'alert', text: 'sold out' }),
      event(200, 'looked-at', 'B'),
      event(300, 'closed', 'A'),
    ],
    [],
    400,
  );

  it('are numbered, with what the test looked at and what stood in front', () => {
    expect(windowAt(windows, 50)).toMatchObject({ looked: { number: 1 }, front: { number: 1 } });
    expect(windowAt(windows, 120)).toMatchObject({ looked: { number: 1 }, front: { number: 2 } });
    expect(windowAt(windows, 250)).toMatchObject({ looked: { number: 2 }, front: { number: 2 } });
  });

  it('say what happened in words', () => {
    expect(windows.items.map(({ text }) => text)).toEqual([
      '2 opened, came to the front',
      'alert “sold out”',
      'test looks at 2',
      '1 closed',
    ]);
  });
});

describe('what services did', () => {
  it('stands as long as it took, and says in words that it failed', () => {
    const span = (ok?: boolean): Parameters<typeof serviceItems>[0][number] => ({
      id: 's',
      lane: 'service',
      kind: 'span',
      at: 10,
      until: 60,
      clock: 'service',
      data: { label: 'desk: ask ledger', trace: 'a', span: 'b', ...(ok === undefined ? {} : { ok }) },
    });
    expect(serviceItems([span(), span(false)]).map(({ text, until, mark }) => [text, until, mark])).toEqual([
      ['desk: ask ledger', 60, 'span'],
      ['desk: ask ledger, failed', 60, 'span'],
    ]);
  });
});
