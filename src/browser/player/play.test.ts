import { beforeEach, describe, expect, it } from 'vitest';
import { parseDrill } from '../../core/drill/parse.ts';
import { elementKey } from '../recording/commands.ts';
import { TrialEars, type Hears } from './hears.ts';
import { Permits } from './permits.ts';
import { Player, type Lent } from './play.ts';
import { WireFault, type Wire } from './wire.ts';

/** A wire that answers by rules and remembers what was sent. */
let sent: string[];
let answers: ((method: string, path: string, body: Record<string, unknown>) => unknown)[];
let checks: { label: string; ok: boolean; expected: string; actual: string }[];
const wire = {
  send: async (method: string, path: string, body: Record<string, unknown> = {}) => {
    sent.push(`${method} ${path}${Object.keys(body).length ? ` ${JSON.stringify(body)}` : ''}`);
    for (const answer of answers) {
      const value = answer(method, path, body);
      if (value instanceof Error) throw value;
      if (value !== undefined) return value;
    }
    return null;
  },
} as unknown as Wire;
let count = 0;

beforeEach(() => {
  sent = [];
  checks = [];
  count = 0;
  answers = [
    (_m, path) =>
      path.endsWith('/element')
        ? { [elementKey]: `e${++count}` }
        : path.endsWith('/elements')
          ? [{ [elementKey]: 'm1' }, { [elementKey]: 'm2' }]
          : undefined,
  ];
});

const play = async (text: string, secrets: Record<string, string> = {}, stopped = () => false, rest: Lent = {}) => {
  const { drill, errors } = parseDrill(text);
  expect(errors).toEqual([]);
  const check = (label: string, ok: boolean, expected: string, actual: string) =>
    void checks.push({ label, ok, expected, actual });
  return new Player(wire, secrets, stopped, check, rest).play(drill!);
};

describe('playing', () => {
  it('holds what was found, and looks everything else up right then', async () => {
    await play('find hold = css "#hold"\npress css "#other"\npress hold\ntype "Ada" into css "#name"');
    expect(sent).toEqual([
      'POST /element {"using":"css selector","value":"#hold"}',
      'POST /element {"using":"css selector","value":"#other"}',
      'POST /element/e2/click',
      'POST /element/e1/click',
      'POST /element {"using":"css selector","value":"#name"}',
      'POST /element/e3/value {"text":"Ada"}',
    ]);
  });

  it('takes a later match from all of them, and looks inside others', async () => {
    await play('press css "li" match 2\nfind row = css "tr"\npress css "a" in row');
    expect(sent.slice(0, 2)).toEqual([
      'POST /elements {"using":"css selector","value":"li"}',
      'POST /element/m2/click',
    ]);
    expect(sent).toContain('POST /element/e1/element {"using":"css selector","value":"a"}');
    expect((await play('press css "li" match 7')).message).toContain('has 2 matches, not 7');
  });

  it('ends at the first fault with the driver’s words and the line it happened in', async () => {
    answers.unshift((_m, path) =>
      path.endsWith('/click') ? new WireFault('stale element reference', 'stale element reference: gone') : undefined,
    );
    const told = await play('open "http://ferry.test/"\n\nfind a = css "#a"\npress a\nback');
    expect(told).toEqual({
      status: 'failed',
      message: 'stale element reference: gone',
      stack: '    at press a (drill:4:1)',
    });
    expect(sent.at(-1)).toContain('/click');
  });

  it('what is located in the statement itself is looked up once more when it went stale between the two', async () => {
    let gone = 1;
    answers.unshift((_m, path) =>
      path.endsWith('/click') && gone-- > 0 ? new WireFault('stale element reference', 'gone') : undefined,
    );
    expect(await play('press css "#a"')).toMatchObject({ status: 'passed' });
    expect(sent.filter((line) => line.includes('/element ')).length).toBe(2);
    gone = 2;
    expect(await play('press css "#a"')).toMatchObject({ status: 'failed', message: 'gone' });
  });

  it('anything that is no answer of the browser is an error, not a failure', async () => {
    answers.unshift(() => new Error('the wire is cut'));
    expect(await play('back')).toMatchObject({ status: 'errored', message: 'the wire is cut' });
  });

  it('passes when every statement went through', async () => {
    expect(
      await play(
        'open "http://ferry.test/"\nreload\nforward\nimplicit 2 s\nscreenshot\naccept dialog with "yes"\ndismiss dialog\nswitch to frame top\nswitch to frame parent\nswitch to frame 2\nclose window',
      ),
    ).toMatchObject({ status: 'passed' });
    expect(sent).toEqual([
      'POST /url {"url":"http://ferry.test/"}',
      'POST /refresh',
      'POST /forward',
      'POST /timeouts {"implicit":2000}',
      'GET /screenshot',
      'POST /alert/text {"text":"yes"}',
      'POST /alert/accept',
      'POST /alert/dismiss',
      'POST /frame {"id":null}',
      'POST /frame/parent',
      'POST /frame {"id":1}',
      'DELETE /window',
    ]);
  });

  it('counts its own windows only', async () => {
    answers.unshift((_m, path) => (path === '/window/handles' ? ['home', 'first', 'second'] : undefined));
    const { drill } = parseDrill('switch to window 2');
    const player = new Player(
      wire,
      {},
      () => false,
      () => {},
    );
    player.foreign.add('home');
    await player.play(drill!);
    expect(sent.at(-1)).toBe('POST /window {"handle":"second"}');
    expect(
      (
        await new Player(
          wire,
          {},
          () => false,
          () => {},
        ).play(parseDrill('switch to window 9').drill!)
      ).message,
    ).toContain('3 windows, not 9');
  });

  it('stops between statements when asked to', async () => {
    let left = 2;
    expect(await play('back\nback\nback\nback', {}, () => left-- <= 0)).toMatchObject({
      status: 'skipped',
      message: 'stopped by hand',
    });
    expect(sent).toHaveLength(2);
  });

  it('takes secrets by name only, and says how to give one that is missing', async () => {
    expect(await play('type secret "card-code" into css "#c"')).toMatchObject({
      status: 'errored',
      message: expect.stringContaining('set ISKEL_SECRET_CARD_CODE') as string,
    });
    await play('type secret "card-code" into css "#c"', { 'card-code': 'made-up' });
    expect(sent.at(-1)).toContain('made-up');
  });
});

describe('checks and waits', () => {
  const title = (...values: string[]) =>
    answers.unshift((_m, path) => (path === '/title' ? (values.length > 1 ? values.shift() : values[0]) : undefined));

  it.each([
    ['is "Ferry"', true],
    ['is "Ship"', false],
    ['is not "Ship"', true],
    ['contains "err"', true],
    ['matches "^F"', true],
    ['matches "^x"', false],
  ])('title %s: %s', async (condition, ok) => {
    title('Ferry');
    expect((await play(`check title ${condition}`)).status).toBe(ok ? 'passed' : 'failed');
    expect(checks).toEqual([
      { label: `check title ${condition}`, ok, expected: expect.any(String) as string, actual: 'Ferry' },
    ]);
  });

  it('a failed check names both values in words a reader finds again', async () => {
    title('Ferry');
    expect((await play('check title is "Ship"')).message).toBe('expected "Ship" but got "Ferry"');
  });

  it('a wait asks until it is met, over errors that pass', async () => {
    let asked = 0;
    answers.unshift((_m, path) =>
      path === '/element' && ++asked < 3 ? new WireFault('no such element', 'not yet') : undefined,
    );
    expect((await play('wait until css "#late" is there up to 1 s every 1 ms')).status).toBe('passed');
    expect(asked).toBe(3);
  });

  it('and gives up in words when its limit is over', async () => {
    title('Ferry');
    const told = await play('wait until title is "Ship" up to 30 ms every 5 ms');
    expect(told.message).toBe('timed out after 30 ms: wait until title is "Ship" up to 30 ms every 5 ms');
  });

  it('other errors end a wait at once', async () => {
    answers.unshift(() => new WireFault('no such window', 'gone'));
    expect((await play('wait until title is "x" up to 5 s')).message).toBe('gone');
  });

  it('waits for a script to answer, and for a value to change', async () => {
    let times = 0;
    answers.unshift((_m, path) => (path === '/execute/sync' ? ++times > 1 : undefined));
    title('…', '…', '412');
    expect(
      (await play('wait until script "return ready" answers every 1 ms\nwait until title is not "…" every 1 ms'))
        .status,
    ).toBe('passed');
    expect(times).toBe(2);
  });
});

describe('the rest of the language', () => {
  const heard = (hears: Partial<Hears>): Hears => ({
    answered: () => false,
    said: () => false,
    quietMs: () => 0,
    opened: () => [],
    ...hears,
  });
  const lent = (text: string, rest: Lent) => play(text, {}, () => false, rest);
  const value = (path: RegExp, ...values: unknown[]) =>
    answers.unshift((_m, at) => (path.test(at) ? (values.length > 1 ? values.shift() : values[0]) : undefined));

  it('remembers what was read, and puts it together', async () => {
    value(/\/text$/, 'LF-4821');
    value(/\/execute\/sync$/, { box: [12.4, 30] });
    await play(
      'remember code = text of css ".code"\nremember at = script "return box"\nopen "http://ferry.test/" + code\nclick at.box.0 + 5, at.box.1',
    );
    expect(sent).toContain('POST /url {"url":"http://ferry.test/LF-4821"}');
    expect(sent.at(-1)).toContain('"origin":"viewport","x":17,"y":30');
  });

  it('says which part of what was remembered is not there', async () => {
    value(/\/rect$/, { x: 1, y: 2 });
    expect(await play('remember box = place of css "#a"\nclick box.left, 5')).toMatchObject({
      status: 'errored',
      message: 'what was remembered as “box” has no part “left”',
    });
  });

  it('draws the same data again for the same trial, and other data for another', async () => {
    const text = 'seed 7\ndraw code = letters 8\ntype code into css "#a"';
    const typed = async (number: number) => {
      await lent(text, { number });
      return sent.at(-1)!;
    };
    const first = await typed(1);
    expect(first).toMatch(/"text":"[a-z]{8}"/);
    expect((await typed(1)).replace(/e\d+/, '')).toBe(first.replace(/e\d+/, ''));
    expect((await typed(2)).replace(/e\d+/, '')).not.toBe(first.replace(/e\d+/, ''));
  });

  it('tells what was drawn, and what its parts are called', async () => {
    const noted: string[] = [];
    await lent('group "signs in"\ndraw day = number 3 to 3', { noted: (words) => noted.push(words) });
    expect(noted).toEqual(['signs in', 'day is "3"']);
  });

  it('points: hover, double, the right button, drag, wheel, keys with what they hold', async () => {
    await play(
      'find a = css "#a"\nhover a\nclick twice a\nclick right a offset 2, 3\ndrag a by 10, 5\nscroll by 0, 300\nkeys "Control+A, Tab"',
    );
    const kinds = sent.slice(1).map((line) => {
      const { actions } = JSON.parse(line.slice('POST /actions '.length)) as {
        actions: [{ actions: Record<string, unknown>[] }];
      };
      return actions[0].actions
        .map(({ type, button, x, value: key }) => [type, button ?? x ?? key].join(' '))
        .join(', ');
    });
    expect(kinds).toEqual([
      'pointerMove 0',
      'pointerMove 0, pointerDown 0, pointerUp 0, pointerDown 0, pointerUp 0',
      'pointerMove 2, pointerDown 2, pointerUp 2',
      'pointerMove 0, pointerDown 0, pointerMove 10, pointerUp 0',
      'scroll 1',
      'keyDown \uE009, keyDown A, keyUp A, keyUp \uE009, keyDown \uE004, keyUp \uE004',
    ]);
  });

  it('takes as long on its way to a place as the test did', async () => {
    await play('hover 5, 6 over 300 ms\nclick right 5, 6 over 1500 ms');
    expect(sent.map((line) => [...line.matchAll(/"duration":(\d+)/g)].map((found) => found[1]).join())).toEqual(
      expect.arrayContaining(['300', '1500']),
    );
  });

  it('looks up by what a person sees', async () => {
    await play(
      'press role "button" named "Save"\npress shown "Fares"\ntype "Ada" into label "Name"\npress test id "pay"',
    );
    const asked = sent.filter((line) => line.includes('/element {')).map((line) => line.slice('POST /element '.length));
    expect(asked.map((body) => (JSON.parse(body) as { using: string }).using)).toEqual([
      'xpath',
      'xpath',
      'xpath',
      'css selector',
    ]);
    expect(asked[0]).toContain('self::button');
    expect(asked[3]).toContain('[data-testid=');
  });

  it('the first size is the window’s own; a later one is set', async () => {
    await play('window 1280 x 800\nback\nwindow 600 x 400\nlimit page load 2 s');
    expect(sent).toEqual([
      'POST /back',
      'POST /window/rect {"width":600,"height":400}',
      'POST /timeouts {"pageLoad":2000}',
    ]);
  });

  it('the newest window is the one that was not there before, in whatever order a driver tells them', async () => {
    value(/handles$/, ['a', 'b'], ['c', 'a', 'b']);
    await play('switch to window 2\nswitch to newest window');
    expect(sent.filter((line) => line.startsWith('POST /window'))).toEqual([
      'POST /window {"handle":"b"}',
      'POST /window {"handle":"c"}',
    ]);
  });

  it('several that a driver had no answer for are asked for once more', async () => {
    value(/elements$/, null, new WireFault('unexpected alert open', 'unexpected alert open: {Alert text : sold}'));
    expect((await play('press css "li" match 2')).message).toContain('Alert text : sold');
  });

  it('a window at an address may be on its way there', async () => {
    value(/handles$/, ['a'], ['a', 'b']);
    value(
      /\/url$/,
      'http://ferry.test/',
      'http://ferry.test/',
      'about:blank',
      'http://ferry.test/',
      'http://ferry.test/slip/b-1',
    );
    expect(await play('switch to window at "/slip/"')).toMatchObject({ status: 'passed', message: '' });
    expect(sent.filter((line) => line.startsWith('POST /window')).at(-1)).toBe('POST /window {"handle":"b"}');
  });

  it('several that opened at once are told apart by the order in which they did', async () => {
    value(/handles$/, ['survey', 'home', 'guide']);
    const hears = heard({ opened: () => ['guide', 'survey'] });
    await lent('switch to newest window\nswitch to window 2', { hears });
    expect(sent.filter((line) => line.startsWith('POST /window'))).toEqual([
      'POST /window {"handle":"survey"}',
      'POST /window {"handle":"guide"}',
    ]);
  });

  it('answers a dialog where it is open, and goes on where none is', async () => {
    const line = 'when dialog is "Sold out" then dismiss dialog\n';
    value(/alert\/text$/, new WireFault('no such alert', 'none'), 'Sold out');
    expect(await play(line)).toMatchObject({ status: 'passed', message: '' });
    expect(sent.filter((one) => one.startsWith('POST /alert'))).toEqual([]);
    expect(await play(line)).toMatchObject({ status: 'passed', message: '' });
    expect(sent.filter((one) => one.startsWith('POST /alert'))).toEqual(['POST /alert/dismiss']);
  });

  it.each([
    ['css "#a" is gone', () => value(/elements$/, [{}], []), 2],
    ['css "#a" is still', () => value(/\/rect$/, { x: 1 }, { x: 5 }), 4],
    ['count of css "#a" is at least 3', () => value(/elements$/, [{}], [{}, {}, {}]), 2],
    ['either title is "x" or css "#a" is there', () => value(/title$/, 'y'), 2],
    ['answer of script "return 1" with "a", 2 is "1"', () => value(/sync$/, 0, 1), 2],
    ['dialog contains "sold"', () => value(/alert\/text$/, new WireFault('no such alert', 'none'), 'sold out'), 2],
  ])('waits until %s', async (condition, given, most) => {
    given();
    expect(await play(`wait until ${condition} up to 2 s every 50 ms`)).toMatchObject({
      status: 'passed',
      message: '',
    });
    expect(sent.length).toBeGreaterThanOrEqual(most === 4 ? 4 : 2);
  });

  it('waits for answers, console and quiet, where the browser tells', async () => {
    let asked = 0;
    const hears = heard({
      answered: (part, since) => part === '/api' && since > 0 && ++asked > 1,
      said: () => true,
      quietMs: () => 500,
    });
    const text =
      'back\nwait until request "/api" is answered every 1 ms\nwait until console says "x"\nwait until all is quiet for 400 ms';
    expect(await lent(text, { hears })).toMatchObject({ status: 'passed' });
    expect(asked).toBe(2);
    expect(await lent(text, {})).toMatchObject({
      status: 'errored',
      message: expect.stringContaining('does not tell') as string,
    });
  });

  it('a check that is no comparison says what was not so', async () => {
    value(/elements$/, [{}]);
    expect((await play('check css ".error" is gone')).message).toBe('"not so" does not fulfil: css ".error" is gone');
  });
});

describe('what a trial hears', () => {
  const exchange = (until: number, status?: number) =>
    ({
      lane: 'network',
      at: until - 10,
      until,
      data: { method: 'GET', url: 'http://ferry.test/api/fares', status },
    }) as never;

  it('answers since a moment, by a part of method and address', () => {
    const ears = new TrialEars(() => 0);
    ears.hear(exchange(100, 200));
    expect(ears.answered('GET http://ferry.test/api', 90)).toBe(true);
    expect(ears.answered('/api/fares', 101)).toBe(false);
    expect(ears.answered('/other', 0)).toBe(false);
  });

  it('windows, in the order in which they opened', () => {
    const ears = new TrialEars(() => 0);
    const opened = (context: string) => ({ lane: 'window', kind: 'opened', at: 1, data: { context } }) as never;
    for (const context of ['home', 'guide']) ears.hear(opened(context));
    expect(ears.opened()).toEqual(['home', 'guide']);
  });

  it('quiet is counted from the last thing that was under way', () => {
    let underWay = 1;
    const ears = new TrialEars(() => underWay);
    expect(ears.quietMs(1000)).toBe(0);
    underWay = 0;
    expect(ears.quietMs(1300)).toBe(300);
    ears.hear(exchange(1400, 200));
    expect(ears.quietMs(1450)).toBe(50);
  });
});

describe('what a drill may reach', () => {
  const outside = { hosts: ['ferry.test'], secrets: ['passenger'], files: ['/srv/given/card.pdf'] };
  const at = (host: string): void => void answers.push((_m, path) => (path === '/execute/sync' ? host : undefined));
  const ended = async (text: string, permits?: Permits): Promise<string> => {
    const { status, message } = await play(`drill "x"\n${text}\n`, { passenger: 'lantern-77' }, () => false, {
      ...(permits ? { permits } : {}),
    });
    return `${status} ${message}`;
  };

  it('addresses of this machine’s files are not opened, unless the settings allow every launch', async () => {
    expect(await ended('open "file:///etc/passwd"')).toMatch(/^failed .*file:/);
    expect(sent).toEqual([]);
    expect(await ended('open "file:///etc/passwd"', new Permits(true))).toBe('passed ');
  });

  it('one from outside types a secret only where a person allowed it', async () => {
    at('ferry.test');
    expect(await ended('type secret "passenger" into css "#p"', new Permits(false, {}, outside))).toBe('passed ');
    answers.pop();
    at('evil.test');
    expect(await ended('type secret "passenger" into css "#p"', new Permits(false, {}, outside))).toMatch(
      /^errored .*“passenger” is not typed at evil.test/,
    );
    expect(sent.join()).not.toMatch(/lantern-77.*lantern-77/);
  });

  it('nor a path that nobody allowed, wherever it comes from', async () => {
    const permits = new Permits(false, {}, outside);
    expect(await ended('type "/srv/given/card.pdf" into css "#f"', permits)).toBe('passed ');
    expect(await ended('type "/etc/passwd" into css "#f"', permits)).toMatch(/^errored .*\/etc\/passwd/);
    answers.push((_m, path) => (path.endsWith('/text') ? '/etc/shadow' : undefined));
    expect(await ended('remember path = text of css "p"\ntype path into css "#f"', permits)).toMatch(
      /^errored .*\/etc\/shadow/,
    );
  });

  it('a secret that the settings bind is typed there and nowhere else, by any drill', async () => {
    const permits = new Permits(false, { passenger: ['ferry.test'] });
    at('evil.test');
    expect(await ended('type secret "passenger" into css "#p"', permits)).toMatch(/^errored .*belongs to ferry.test/);
  });
});
