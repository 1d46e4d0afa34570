import { describe, expect, it } from 'vitest';
import { element, page, press, reads, step, url } from '../evidence/samples.ts';
import { advised, failed, opened, told, types } from './samples.ts';
import type { Told } from './told.ts';

/** Remedies for steps that reached something else than they were meant for. */

describe('one of several, where no page was written down', () => {
  const pressed = (
    text: string,
    href: string,
    make: typeof told = told,
    more: Parameters<typeof page>[2][] = [],
  ): Told =>
    make([
      ...opened(),
      ...more.map((data, i) => page(30 + i, 'structure', data)),
      element(40, 'appeared', 'css=.sailing a', { node: 1, tag: 'a', text, name: text, attrs: { href }, count: 5 }),
      press(100, '.sailing a'),
    ]);
  const passing = [pressed('Night sailing', '/sailings/7'), pressed('Night sailing', '/sailings/7')];

  it('it is the one by its words that passing attempts pressed, and says that it was not tried', () => {
    const subject = pressed('Early sailing', '/sailings/3', failed);
    const [first] = advised('loose-locator', subject, passing, { shows: [subject.evidence.steps.at(-1)!] });
    expect(first!.text).toContain('by its text: the link that reads “Night sailing”, not by “.sailing a”');
    expect(first!.because).toContain('in 2 of 2 passing attempts, and not what was used here');
    expect(first!.because).toContain('was not written down');
    expect(first!.failing).toBeNull();
    expect(first!.change!.change).toEqual({
      do: 'locate by',
      locator: { by: 'role', value: 'link', named: 'Night sailing' },
    });
  });

  it('is no locator that matches what was used here too', () => {
    const subject = pressed('Night sailing', '/sailings/7', failed);
    const list = advised('loose-locator', subject, passing, { shows: [subject.evidence.steps.at(-1)!] });
    expect(list.filter(({ kind }) => kind === 'locator')).toEqual([]);
  });

  it('is never what is read by what it should read', () => {
    const read = (value: string, make: typeof told = told): Told =>
      make([
        ...opened(),
        element(40, 'appeared', 'css=.sailing a', { node: 1, tag: 'a', text: value, name: value, count: 5 }),
        reads(100, value, '.sailing a'),
      ]);
    const subject = read('Early sailing', failed);
    const list = advised('brittle-locator', subject, [read('Night sailing')], {
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(list).toEqual([]);
  });

  it('does not take the page before, on which nothing of the kind stood, for the page it was used on', () => {
    const home = { address: `${url}/`, blob: 'home' };
    const markup = (): string => '<html><body><a href="/">Home</a></body></html>';
    const shown = { shows: [], markup };
    const subject = pressed('Early sailing', '/sailings/3', failed, [home]);
    const [first] = advised('loose-locator', subject, [pressed('Night sailing', '/sailings/7', told, [home])], {
      ...shown,
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(first!.because).toContain('was not written down');
  });
});

describe('keys', () => {
  const body = JSON.stringify({
    actions: [{ type: 'key', actions: [...'Ada'].map((value) => ({ type: 'keyDown', value })) }],
  });
  const keyed = (at: number) => step(at, at + 10, { action: 'keys', command: 'perform actions', input: body });

  it('have their field pressed right before them, and it is told when the focus went on', () => {
    const subject = failed([
      ...opened(),
      press(100, '#passenger'),
      page(900, 'focus', { label: 'textarea' }),
      keyed(1400),
    ]);
    const [first] = advised('lost-input', subject, [], { shows: [subject.evidence.steps.at(-1)!] });
    expect(first!.text).toMatch(/^Do Press on “#passenger” again right before /);
    expect(first!.because).toMatch(/before the keys; 500 ms before them the focus went on by itself$/);
    expect(first!.change!.change).toMatchObject({ do: 'put before', statements: [{ do: 'press' }] });
  });

  it('that follow other keys are left alone, and so is typing into an element', () => {
    const tabbed = failed([...opened(), press(100, '#passenger'), keyed(400), keyed(900)]);
    const typed = failed([...opened(), press(100, '#passenger'), types(200, 'Ada', '#passenger')]);
    for (const subject of [tabbed, typed])
      expect(
        advised('lost-input', subject, [], { shows: [subject.evidence.steps.at(-1)!] }).map(({ text }) => text),
      ).not.toContainEqual(expect.stringMatching(/^Do Press/));
  });
});
