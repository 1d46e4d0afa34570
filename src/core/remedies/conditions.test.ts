import { describe, expect, it } from 'vitest';
import { element, exchange, line, press, reads, step } from '../evidence/samples.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { conditionsAfter, conditionsBefore } from './conditions.ts';
import { advised, failed, opened, told, types, words } from './samples.ts';
import { momentAt, type Told } from './told.ts';

const button = (at: number, kind: 'appeared' | 'changed', enabled: boolean, more = {}): EvidenceEvent =>
  element(at, kind, 'css=#go', {
    node: 1,
    tag: 'button',
    name: 'Hold seat',
    text: 'Hold seat',
    enabled,
    visible: true,
    ...more,
  });
const pressed = (one: Told) =>
  momentAt(
    one,
    one.sketch.steps.find(({ action }) => action === 'press')!,
  );

/** The button is enabled at one time and pressed at another. */
const attempt = (enabledAt: number, pressAt: number, make: typeof told = told): Told =>
  make([...opened(), button(30, 'appeared', false), button(enabledAt, 'changed', true), press(pressAt)]);

describe('conditions before a step', () => {
  it('are what was so in all passing and not in the failing attempt, with counts and times', () => {
    const passing = [attempt(100, 300), attempt(150, 320), attempt(120, 180)];
    const [best] = conditionsBefore(pressed(attempt(400, 200, failed)), [], passing.map(pressed));
    expect(best!.condition.words).toBe('“Hold seat” is enabled');
    expect(best).toMatchObject({ passing: [3, 3], failing: [0, 1], leadMs: 170 });
    expect(best!.came).toMatchObject({ since: 400, afterMs: 200 });
  });

  it('are none when a passing attempt did without', () => {
    const passing = [attempt(100, 300), attempt(400, 200)];
    const found = conditionsBefore(pressed(attempt(400, 200, failed)), [], passing.map(pressed));
    expect(found.map(({ condition }) => condition.kind)).not.toContain('enabled');
  });

  it('are none that other failing attempts had', () => {
    const failing = [attempt(100, 300, failed), attempt(100, 300, failed)];
    const found = conditionsBefore(pressed(attempt(400, 200, failed)), failing.map(pressed), [
      pressed(attempt(100, 300)),
    ]);
    expect(found.map(({ condition }) => condition.kind)).not.toContain('enabled');
  });

  it('speak of an answer that had come, by its kind and not by its ids', () => {
    const with1 = (id: string, until: number, make: typeof told = told): Told =>
      make([...opened(), exchange(40, until, { url: `http://ferry.test/api/fare/${id}` }), press(200)]);
    const found = conditionsBefore(
      pressed(with1('e-1840', 260, failed)),
      [],
      [pressed(with1('e-2200', 90)), pressed(with1('l-2130', 110))],
    );
    expect(found[0]!.condition.words).toBe('GET /api/fare/# has answered');
    expect(found[0]!.came!.afterMs).toBeCloseTo(60, 0);
  });

  it('speak of what a text is no longer, where passing attempts each read something else', () => {
    const fare = (text: string, make: typeof told = told): Told =>
      make([...opened(), element(30, 'appeared', 'css=#go', { node: 1, name: 'fare', text }), press(200)]);
    const found = conditionsBefore(
      pressed(fare('…', failed)),
      [],
      [pressed(fare('410 lira')), pressed(fare('290 lira'))],
    );
    expect(found[0]!.condition.words).toBe('“fare” reads something else than “…”');
  });

  it('speak of standing still', () => {
    const moving = (movedAt: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        button(30, 'appeared', true, { coveredBy: null, box: { x: 0, y: 0, width: 9, height: 9 } }),
        element(movedAt, 'moved', 'css=#go', {
          node: 1,
          name: 'Hold seat',
          text: 'Hold seat',
          enabled: true,
          visible: true,
          coveredBy: null,
          box: { x: 0, y: 80, width: 9, height: 9 },
        }),
        press(600),
      ]);
    const found = conditionsBefore(pressed(moving(580, failed)), [], [pressed(moving(100)), pressed(moving(60))]);
    expect(found[0]!.condition.words).toBe('“Hold seat” has stood still for 250 ms');
    expect(found[0]!.came!.since).toBe(830);
  });

  it('speak of the console where nothing else tells', () => {
    const logged = (at: number, make: typeof told = told): Told =>
      make([...opened(), line(at, 'seat panel ready'), press(200)]);
    const found = conditionsBefore(pressed(logged(240, failed)), [], [pressed(logged(90))]);
    expect(found[0]!.condition.words).toBe('the console has said “seat panel ready”');
  });

  it('hold in every passing attempt they are told of, and not in the failing one (for drawn attempts)', () => {
    for (let seed = 1; seed < 40; seed++) {
      const draw = (n: number): number => ((seed * 7919 + n * 104_729) % 997) / 997;
      const passing = Array.from({ length: 4 }, (_, i) => attempt(60 + draw(i) * 200, 300 + draw(i + 9) * 100));
      const subject = attempt(310 + draw(20) * 90, 200 + draw(21) * 100, failed);
      for (const { condition, came } of conditionsBefore(pressed(subject), [], passing.map(pressed))) {
        for (const one of passing) expect(condition.holds(one.evidence, pressed(one).at)).toBeTruthy();
        expect(condition.holds(subject.evidence, pressed(subject).at)).toBe(false);
        if (came) expect(came.since).toBeGreaterThan(pressed(subject).at);
      }
    }
  });

  it('from the failing attempt alone are what came after', () => {
    const subject = attempt(400, 200, failed);
    const [best] = conditionsAfter(pressed(subject), 450);
    expect(best).toMatchObject({ passing: [0, 0], came: { afterMs: 200 } });
    expect(best!.condition.kind).toBe('enabled');
  });
});

describe('waiting as a remedy', () => {
  it('is told in words, with its reason and what shows it', () => {
    const subject = attempt(400, 200, failed);
    const passing = [attempt(100, 300), attempt(150, 320)];
    const [best] = advised('early-action', subject, passing, { shows: [press(0), ...subject.evidence.steps.slice(1)] });
    expect(best!.text).toBe('Before Press on “Hold seat”, wait until “Hold seat” is enabled');
    expect(best!.because).toBe('So in 2 of 2 passing attempts, for 185 ms by then; here it came 200 ms too late');
    expect(best!.shown.map(({ attempt: id }) => id)).toEqual([subject.id, subject.id, passing[0]!.id]);
    for (const { attempt: id, event } of best!.shown) {
      const one = [subject, ...passing].find((other) => other.id === id)!;
      const known = [
        ...one.evidence.steps,
        ...[...one.evidence.lifelines.values()].flatMap(({ segments }) => segments.map((s) => ({ id: s.event }))),
      ];
      expect(known.map((e) => e.id)).toContain(event);
    }
  });

  it('says so when no passing attempt is known', () => {
    const subject = attempt(400, 200, failed);
    const [best] = advised('early-action', subject, [], { shows: subject.evidence.steps.slice(1), until: 400 });
    expect(best!.text).toBe('Before Press on “Hold seat”, wait until “Hold seat” is enabled');
    expect(best!.because).toContain('no passing attempt is known');
    expect(best!.passing).toBeNull();
  });

  it('finds the element anew where it was held across a replacement', () => {
    const held = (answer: number, make: typeof told = told): Told => {
      const find = step(100, 110, { action: 'find', command: 'find element', locator: press(0).data.locator! });
      return make([
        ...opened(),
        exchange(40, answer, { url: 'http://ferry.test/api/fare' }),
        element(50, 'appeared', 'css=#go', { node: 1, name: 'Hold seat', attrs: { 'data-render': '1' } }),
        element(answer + 5, 'replaced', 'css=#go', { node: 2, name: 'Hold seat', attrs: { 'data-render': '2' } }),
        find,
        types(150, 'Ada'),
        press(300, '#go', { foundBy: find.id }),
      ]);
    };
    const subject = held(250, failed);
    const list = advised('replaced-element', subject, [held(70), held(60)], {
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(words(list)[0]).toBe('Find “Hold seat” anew right before pressing it, and only once what follows holds');
    expect(list[0]!.because).toBe(
      'It was found 190 ms before it was used, and replaced in between, 45 ms before the use',
    );
    expect(words(list).slice(1)).toEqual([
      'Before looking for it, wait until “Hold seat” has data-render="2"',
      'Before looking for it, wait until GET /api/fare has answered',
    ]);
  });

  it('puts a condition in the place of a pause, where all passing attempts slept through it', () => {
    const slept = (cameAt: number, make: typeof told = told): Told =>
      make([
        ...opened(),
        ...[30, 44, 58, 72].map((at) => reads(at, 'x', `#other${at}`)),
        element(20, 'appeared', 'css=#out', { node: 1, name: 'fare', text: 'wait' }),
        element(cameAt, 'changed', 'css=#out', { node: 1, name: 'fare', text: '410 lira' }),
        reads(600, cameAt < 600 ? '410 lira' : 'wait'),
      ]);
    const subject = slept(700, failed);
    const [best] = advised('early-check', subject, [slept(300), slept(420)], {
      shows: [subject.evidence.steps.at(-1)!],
    });
    expect(best!.kind).toBe('pause');
    expect(best!.text).toContain('by waiting until “fare” reads “410 lira”');
    expect(best!.because).toContain('during the pause in 2 of 2 passing attempts; here it had not come');
  });
});
