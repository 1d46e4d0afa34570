import { describe, expect, it } from 'vitest';
import { adjustedRandIndex } from '../stats/rand-index.ts';
import type { Failure } from '../failures/failure.ts';
import { prepare } from '../evidence/prepare.ts';
import { facts } from '../evidence/samples.ts';
import { readFailure } from '../failures/read.ts';
import { familyId, fingerprint, normaliseMessage, wordless } from './fingerprint.ts';
import { FamilyIndex, similarity } from './near.ts';

const failureOf = (message: string, stack = ''): Failure =>
  readFailure(prepare([], { ...facts('failed', message, stack) }))!;

describe('the adjusted Rand index', () => {
  it('is 1 for the same grouping under other names, and about 0 by chance', () => {
    expect(adjustedRandIndex([1, 1, 2, 2], ['b', 'b', 'a', 'a'])).toBe(1);
    // The example of Hubert and Arabie's table worked by hand: pairs 2 of 3 and 2 of 4 agree.
    expect(adjustedRandIndex([1, 1, 1, 2, 2, 2], [1, 1, 2, 2, 3, 3])).toBeCloseTo(0.2424, 4);
    const a = Array.from({ length: 4000 }, (_, i) => i % 7);
    const b = Array.from({ length: 4000 }, (_, i) => (i * 2_654_435_761) % 11);
    expect(Math.abs(adjustedRandIndex(a, b))).toBeLessThan(0.02);
    expect(() => adjustedRandIndex([1], [1, 2])).toThrow(/1 and 2 things/);
  });
});

describe('words in common', () => {
  it('are counted over all', () => {
    expect(similarity(new Set(['a', 'b']), new Set(['b', 'c']))).toBeCloseTo(1 / 3);
    expect(similarity(new Set(), new Set())).toBe(1);
  });
});

describe('a normalised message', () => {
  it.each([
    ['Seat 2A of sailing e-1840 was taken at 2026-11-23T10:00:01.250Z', 'seat <n> of sailing <n> was taken at <time>'],
    ['cannot read /srv/ci/w3/ferry/fare.json:12', 'cannot read <path>'],
    ['booking 9f86d081884c7d65 for "Ada" failed', 'booking <id> for <value> failed'],
    ["it doesn't hold 'Kuzu'", "it doesn't hold <value>"],
  ])('%s', (message, normal) => expect(normaliseMessage(message)).toBe(normal));
});

/** Sixty true kinds: by wording, by locator, by place in the code; each in two wordings where runners differ. */
function kinds(): ((draw: (most: number) => number) => { message: string; stack: string })[] {
  const at = (name: string, line: number, draw: (most: number) => number): string =>
    `Error\n    at ${name} (/srv/ci/w${draw(90)}/ferry/tests/${name}.ts:${line + draw(9)}:${1 + draw(40)})\n    at run (/srv/ci/w1/node_modules/runner/r.js:1:1)`;
  const made: ReturnType<typeof kinds> = [];
  const names = [
    'holdsSeat',
    'showsFare',
    'opensPass',
    'addsBicycle',
    'listsPorts',
    'paysByCard',
    'keepsHold',
    'cancelsTrip',
    'findsSailing',
    'changesName',
  ];
  names.forEach((name, i) => {
    made.push((d) => ({ message: `expected ${d(900)} to be ${d(900)}`, stack: at(name, 10 * i, d) }));
    made.push((d) => ({
      message: `no such element: Unable to locate element: {"method":"css selector","selector":"#${name}-${d(9999)}"}\n  (Session info: chrome=${d(200)})`,
      stack: at(`helper${d(5)}`, 1, d),
    }));
    made.push((d) => ({
      message: `Timed out after ${1000 + d(9000)} ms waiting for selector ".${name}"`,
      stack: at(`wait${d(3)}`, 5, d),
    }));
    made.push((d) => ({
      message: `TypeError: Cannot read properties of undefined (reading '${name}${d(99)}')`,
      stack: at(name, 400, d),
    }));
    made.push((d) => ({
      message: `The ${name} desk refused the booking of passenger ${d(9999)} for sailing e-${d(9999)}${d(2) ? ' once more' : ''} because its ledger was closed`,
      stack: at(name, 700, d),
    }));
  });
  const alone = [
    'net::ERR_CONNECTION_REFUSED at http://127.0.0.1:PORT/',
    'session not created: the browser went away in folder /tmp/PATH',
    'no such window: window with handle HANDLE was closed',
    'unexpected alert open: {Alert text : Ticket PORT is not paid}',
    'javascript error: fares[PORT] is not a function',
    'stale element reference: element f.1A2B.d.PORT.e.7 is not attached to the page document',
    'element click intercepted: Element <button id="b-PORT"> is not clickable at point (PORT, 20). Other element would receive the click: <div class="veil">',
    'script timeout',
    'element not interactable: element has zero size',
    'move target out of bounds: (PORT, 20) is out of bounds',
  ];
  for (const text of alone)
    made.push((d) => ({
      message: text
        .replaceAll('PORT', String(1000 + d(8000)))
        .replace('PATH', `p${d(9999)}/x`)
        .replace('HANDLE', d(1e9).toString(16).toUpperCase().padStart(16, 'A')),
      stack: '',
    }));
  return made;
}

describe('families of ten thousand failures of sixty kinds', () => {
  it('are the true kinds, in time', () => {
    let seed = 7;
    const draw = (most: number): number => {
      seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
      return seed % most;
    };
    const all = kinds();
    expect(all).toHaveLength(60);
    const truth: number[] = [];
    const samples = Array.from({ length: 10_000 }, () => {
      const kind = draw(60);
      truth.push(kind);
      return all[kind]!(draw);
    });
    const begun = performance.now();
    const index = new FamilyIndex();
    const found = samples.map(({ message, stack }) => {
      const print = fingerprint(failureOf(message, stack), undefined);
      const known = index.find(print);
      if (known?.how === 'same') return known.family;
      const family = known?.family ?? familyId(print);
      index.add(print, family);
      return family;
    });
    const took = performance.now() - begun;
    const index60 = adjustedRandIndex(truth, found);
    console.log(`adjusted Rand index ${index60.toFixed(4)}, ${new Set(found).size} families, ${took.toFixed(0)} ms`);
    expect(index60).toBeGreaterThanOrEqual(0.95);
  });

  it('keeps apart what a person has split off, and attracts nothing to it', () => {
    const index = new FamilyIndex();
    index.add('assertion||the ferry desk refused this booking today', 'f-1');
    index.add('assertion||the ferry desk refused that booking today', 'f-2', true);
    expect(index.find('assertion||the ferry desk refused that booking today')?.family).toBe('f-2');
    expect(index.find('assertion||the ferry desk refused some booking today')).toEqual({ family: 'f-1', how: 'near' });
    expect(index.find('assertion||closed')).toBeUndefined();
  });
});

describe('what a trial can have the same', () => {
  const at = (kind: string, command: string, locator: string, rest = ''): string =>
    `${kind}|${command}||${locator}${rest}`;

  it('leaves out the words, the body and which of several it was', () => {
    expect(wordless(at('assertion', 'get text', 'css=.row[3] >> css=b', '|“fare” in 0123456789a'))).toBe(
      at('assertion', 'get text', 'css=.row >> css=b'),
    );
  });

  it('knows one way to run a script', () => {
    expect(wordless(at('timeout', 'execute async script', ''))).toBe(wordless(at('timeout', 'execute script', '')));
  });

  it('a dialog in the way is the same at whatever step it is met; none where one was wanted is another', () => {
    const met = (command: string): string => wordless(at('unexpected-dialog', command, 'css=.fare'));
    expect(met('find element')).toBe(met('get text'));
    expect(met('accept alert')).not.toBe(met('get text'));
  });
});
