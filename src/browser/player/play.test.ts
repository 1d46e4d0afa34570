import { beforeEach, describe, expect, it } from 'vitest';
import { parseDrill } from '../../core/drill/parse.ts';
import { elementKey } from '../recording/commands.ts';
import { Player } from './play.ts';
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

const play = async (text: string, secrets: Record<string, string> = {}, stopped = () => false) => {
  const { drill, errors } = parseDrill(text);
  expect(errors).toEqual([]);
  return new Player(wire, secrets, stopped, (label, ok, expected, actual) =>
    checks.push({ label, ok, expected, actual }),
  ).play(drill!);
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
    const told = await play('open "http://ferry.test/"\n\npress css "#a"\nback');
    expect(told).toEqual({
      status: 'failed',
      message: 'stale element reference: gone',
      stack: '    at press css "#a" (drill:3:1)',
    });
    expect(sent.at(-1)).toContain('/click');
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
