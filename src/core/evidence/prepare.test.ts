import { describe, expect, it } from 'vitest';
import { analyse } from '../analyse.ts';
import { pathOf, shorten, stepLabel } from './labels.ts';
import { locatorKey, locatorText, strategyName, strategyOf } from './locator.ts';
import { environmentKey, isFailure, standingOf } from './attempt.ts';
import { shortHash } from './hash.ts';
import { prepare } from './prepare.ts';
import { check, css, element, facts, stale, step } from './samples.ts';

describe('the failing step', () => {
  const press = step(10, 20, { action: 'press', command: 'element click', locator: css('#a'), error: stale });
  const read = step(30, 35, {
    action: 'read',
    command: 'get text',
    subject: 'text',
    locator: css('h1'),
    result: 'Old',
  });
  const tidy = step(50, 60, { action: 'picture', command: 'take screenshot' });
  const failing = (events: Parameters<typeof prepare>[0], message: string, outcome: 'failed' | 'passed' = 'failed') =>
    prepare(events, facts(outcome, message)).failing;

  it('is the command whose error the outcome repeats', () => {
    expect(failing([press, read, tidy], `Error: ${stale.message}`)?.id).toBe(press.id);
  });
  it('is the last thing read that the message shows, for a check', () => {
    expect(failing([press, read, tidy], 'expected "New" but got "Old"')?.id).toBe(read.id);
  });
  it('is what was read before the check the test told of', () => {
    const later = step(70, 75, { action: 'read', command: 'get title', subject: 'title', result: 'Other' });
    expect(failing([read, check(40, false, 'New', 'Old'), later], 'true was not false')?.id).toBe(read.id);
  });
  it('is the last failed action when the outcome says nothing', () => {
    expect(failing([press, tidy], '')?.id).toBe(press.id);
  });
  it('is none when nothing failed, or nothing was recorded', () => {
    expect(failing([press], '', 'passed')).toBeUndefined();
    expect(failing([], 'x')).toBeUndefined();
  });
});

describe('words', () => {
  it('a step says what a person would say', () => {
    expect(stepLabel({ command: 'element click', action: 'press', label: '', locator: css('#a') }, 'Hold seat')).toBe(
      'Press on “Hold seat”',
    );
    expect(
      stepLabel({ command: 'element send keys', action: 'type', label: '', input: 'Ada', locator: css('#a') }),
    ).toBe('Type “Ada” in “#a”');
    expect(stepLabel({ command: 'navigate to', action: 'open', label: '', input: 'http://ferry.test/a?b=1' })).toBe(
      'Open /a?b=1',
    );
    expect(stepLabel({ command: 'get text', action: 'read', label: '', subject: 'text', locator: css('h1') })).toBe(
      'Read text of “h1”',
    );
    expect(stepLabel({ command: 'get title', action: 'read', label: '', subject: 'title' })).toBe('Read the title');
    expect(stepLabel({ command: 'set timeouts', action: 'settings', label: 'Set timeouts' })).toBe('Set timeouts');
  });
  it('long texts are cut at a word', () => {
    expect(shorten('Storm warning: Poyraz 7 expected after 20:00', 30)).toBe('Storm warning: Poyraz 7…');
    expect(shorten('a  b\nc')).toBe('a b c');
    expect(shorten('x'.repeat(60), 10)).toBe(`${'x'.repeat(9)}…`);
  });
  it('addresses are shown by their path, others whole', () => {
    expect(pathOf('http://ferry.test/a#b')).toBe('/a#b');
    expect(pathOf('about:blank')).toBe('about:blank');
    expect(pathOf('no address')).toBe('no address');
  });
  it('locators have one key and one text each', () => {
    const inner = { ...css('a'), index: 2, within: { using: 'xpath', value: '//main' } };
    expect(locatorKey(inner)).toBe('xpath=//main >> css=a[2]');
    expect(locatorText(inner)).toBe('a (match 3) in xpath //main');
    for (const name of ['css', 'xpath', 'link', 'partial link', 'tag'])
      expect(strategyName(strategyOf(name)!)).toBe(name);
    expect(strategyOf('magic')).toBeUndefined();
  });
  it('environments have readable keys', () => {
    expect(environmentKey({ browser: 'chromium', version: '156.0.1', width: 1280, height: 800, place: 'ci' })).toBe(
      'chromium 156 1280×800 · ci',
    );
    expect(environmentKey({ browser: 'firefox', version: '' })).toBe('firefox');
  });
});

describe('standing', () => {
  const of = (...outcomes: ('passed' | 'failed' | 'skipped' | 'interrupted')[]) =>
    standingOf(outcomes.map((outcome) => ({ outcome })));
  it('is flaky only when a failure was followed by a pass', () => {
    expect([
      of('failed', 'passed'),
      of('passed'),
      of('failed', 'failed'),
      of('skipped'),
      of('passed', 'failed'),
      of('interrupted', 'passed'),
      of(),
    ]).toEqual(['flaky', 'passed', 'failed', 'skipped', 'failed', 'passed', 'unreported']);
  });
  it('counts errors as failures', () => {
    expect(['failed', 'errored', 'interrupted', 'unreported'].map((outcome) => isFailure(outcome as 'failed'))).toEqual(
      [true, true, false, false],
    );
  });
});

it('hashes are the same everywhere, and differ for texts that differ', () => {
  expect(shortHash('a')).toBe(shortHash('a'));
  expect(new Set(Array.from({ length: 5000 }, (_, i) => shortHash(`text ${i}`))).size).toBe(5000);
  expect(shortHash('')).toMatch(/^[0-9a-z]{11}$/);
});

it('the whole analysis of a settled attempt hangs together', () => {
  const find = step(100, 110, { action: 'find', command: 'find element', locator: css('#hold') });
  const events = [
    find,
    element(90, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat' }),
    element(400, 'replaced', 'css=#hold', { node: 4, name: 'Hold seat' }),
    step(412, 420, {
      action: 'press',
      command: 'element click',
      locator: css('#hold'),
      foundBy: find.id,
      error: stale,
    }),
  ];
  const before = structuredClone(events);
  const alone = { id: 'a-1', startedAt: 0, passing: [] };
  const analysis = analyse(events, facts('failed', stale.message), alone);
  expect(events).toEqual(before);
  expect(analysis.failure!.step).toBe(events[3]!.id);
  expect(analysis.family!.id).toMatch(/^f-/);
  expect(analysis.labels[events[3]!.id]).toBe('Press on “Hold seat”');
  expect(analysis.suspects[0]!.for.every((clue) => analysis.clues.includes(clue))).toBe(true);
  const known = new Set(events.map((event) => event.id));
  for (const clue of analysis.clues) for (const id of clue.evidence) expect(known).toContain(id);
  expect(analyse(events, facts('failed', stale.message), alone)).toEqual(analysis);
});
