import { describe, expect, it } from 'vitest';
import { readSessionRequest } from './capabilities.ts';
import { chromiumLaunch, firefoxLaunch, LaunchRefused, remoteLaunch, webkitLaunch } from './launch-options.ts';

const chromium = chromiumLaunch;
const webkit = webkitLaunch('/usr/lib/MiniBrowser');
const ask = (always: object, first?: object[], any = false, engine = chromium) =>
  readSessionRequest({ capabilities: { alwaysMatch: always, ...(first ? { firstMatch: first } : {}) } }, engine, any);
const sent = (request: ReturnType<typeof ask>) =>
  request.body.capabilities as { alwaysMatch: Record<string, unknown>; firstMatch: Record<string, unknown>[] };
const argumentsOf = (entry: Record<string, unknown>) => (entry['goog:chromeOptions'] as { args: string[] }).args;

describe('what is sent on', () => {
  it('a browser that is named by its engine is asked for by the name its driver knows', () => {
    expect(sent(ask({ browserName: 'chromium' })).alwaysMatch).toMatchObject({ browserName: 'chrome' });
    expect(sent(ask({}, [{ browserName: 'Chromium' }])).firstMatch).toMatchObject([{ browserName: 'chrome' }]);
  });
  it('is without our capability, with a socket, and with what a headless machine needs', () => {
    const request = ask({ browserName: 'chrome', 'iskel:attempt': { run: 'r' } });
    expect(sent(request).alwaysMatch).not.toHaveProperty('iskel:attempt');
    expect(sent(request).alwaysMatch).toMatchObject({ browserName: 'chrome', webSocketUrl: true });
    expect(argumentsOf(sent(request).alwaysMatch)).toContain('--disable-background-networking');
    expect(request.wantsSocket).toBe(false);
  });

  it('keeps the client’s arguments first and adds none twice', () => {
    const args = argumentsOf(
      sent(ask({ 'goog:chromeOptions': { args: ['--headless=new', '--disable-sync', 'lang=tr'] } })).alwaysMatch,
    );
    expect(args.slice(0, 3)).toEqual(['--headless=new', '--disable-sync', 'lang=tr']);
    expect(args.filter((arg) => arg.includes('headless'))).toHaveLength(1);
    expect(args.filter((arg) => arg.includes('disable-sync'))).toHaveLength(1);
  });

  it('leaves options in firstMatch where they stand', () => {
    const request = ask({}, [{ 'goog:chromeOptions': { args: ['--window-size=800,600'] } }, {}]);
    expect(sent(request).alwaysMatch).not.toHaveProperty('goog:chromeOptions');
    expect(argumentsOf(sent(request).firstMatch[0]!)[0]).toBe('--window-size=800,600');
    expect(request.size).toEqual({ width: 800, height: 600 });
  });
});

describe('our capability', () => {
  it('is taken from alwaysMatch or firstMatch', () => {
    expect(ask({ 'iskel:attempt': { run: 'a' } }).attempt.run).toBe('a');
    expect(ask({}, [{}, { 'iskel:attempt': { run: 'b' } }]).attempt.run).toBe('b');
  });

  it.each([1e300, -1, 1.5, 100_001])('refuses the number %d: two attempts would become one', (number) =>
    expect(() => ask({ 'iskel:attempt': { number } })).toThrow(/whole number from 1 to 100,000/),
  );

  it('keeps what has the right type; a wrong label costs no session', () => {
    const { attempt } = ask({
      'iskel:attempt': {
        run: 7,
        number: 0,
        tags: ['a', 3],
        test: { title: 't', suite: {} },
        labels: { host: 1 },
        detail: 'wild',
        secrets: 'x',
        worker: '3',
      },
    });
    expect(attempt).toEqual({
      tags: ['a'],
      test: { title: 't' },
      labels: { host: '1' },
      secrets: [],
      detail: 'standard',
      worker: '3',
    });
  });
});

describe('launch options', () => {
  it.each([
    [{ binary: '/bin/sh' }, 'binary'],
    [{ extensions: [] }, 'extensions'],
    [{ debuggerAddress: 'x:1' }, 'debuggerAddress'],
    [{ args: ['--utility-cmd-prefix=sh'] }, '--utility-cmd-prefix=sh'],
    [{ args: ['load-extension=/x'] }, '--load-extension=/x'],
    [{ args: ['--user-data-dir=/home'] }, '--user-data-dir=/home'],
    [{ args: ['--remote-debugging-address=0.0.0.0'] }, '--remote-debugging-address'],
    [{ prefs: { 'download.default_directory': '/' } }, 'download.default_directory'],
  ])('refuses %j by name', (options, named) => {
    expect(() => ask({ 'goog:chromeOptions': options })).toThrow(LaunchRefused);
    expect(() => ask({ 'goog:chromeOptions': options })).toThrow(named);
    expect(() => ask({}, [{ 'goog:chromeOptions': options }])).toThrow(named);
    expect(() => ask({ 'goog:chromeOptions': options }, undefined, true)).not.toThrow();
  });

  it('allows what only changes what the page sees', () => {
    expect(() =>
      ask({
        'goog:chromeOptions': {
          args: ['--window-size=390,844', '--lang=tr', '--force-device-scale-factor=2', '--user-agent=A B'],
          mobileEmulation: { deviceName: 'x' },
          prefs: { 'intl.accept_languages': 'tr' },
        },
      }),
    ).not.toThrow();
  });
});

describe('dialogs', () => {
  it.each([
    [undefined, { default: 'dismiss and notify' }, 'dismiss and notify', false],
    ['accept and notify', { default: 'accept and notify' }, 'accept and notify', false],
    ['dismiss', { default: 'dismiss and notify' }, 'dismiss', true],
    ['accept', { default: 'accept and notify' }, 'accept', true],
    ['ignore', { default: 'ignore' }, 'ignore', false],
  ])('asked for %s', (asked, wire, told, again) => {
    const request = ask(asked ? { unhandledPromptBehavior: asked } : {});
    expect(sent(request).alwaysMatch.unhandledPromptBehavior).toEqual(wire);
    expect(request.prompts).toEqual({ told, again });
  });

  it('are left as asked for a client with a socket of its own, and where the driver has to answer', () => {
    expect(
      sent(ask({ webSocketUrl: true, unhandledPromptBehavior: 'accept' })).alwaysMatch.unhandledPromptBehavior,
    ).toBe('accept');
    expect(sent(ask({ unhandledPromptBehavior: 'nonsense' })).alwaysMatch.unhandledPromptBehavior).toBe('nonsense');
    expect(sent(ask({ unhandledPromptBehavior: { alert: 'accept' } })).alwaysMatch.unhandledPromptBehavior).toEqual({
      alert: 'accept',
    });
  });
});

describe('WebKit', () => {
  const options = 'webkitgtk:browserOptions';
  const askWebkit = (always: object, first?: object[], any = false) => ask(always, first, any, webkit);

  it('is told its browser and that it is driven, and no name it would not answer to', () => {
    const request = askWebkit({ browserName: 'webkit', timeouts: { script: 5 }, 'iskel:attempt': { run: 'r' } });
    expect(sent(request).alwaysMatch).toEqual({
      timeouts: { script: 5 },
      [options]: { binary: '/usr/lib/MiniBrowser', args: ['--automation'] },
    });
    expect(request.attempt.run).toBe('r');
    expect(sent(askWebkit({ browserName: 'MiniBrowser' })).alwaysMatch.browserName).toBe('MiniBrowser');
  });

  it('keeps the client’s own options, also among alternatives, and asks for no socket', () => {
    const own = { binary: '/usr/lib/MiniBrowser', args: ['--automation', '--private'] };
    const request = askWebkit({}, [{ [options]: own }, { pageLoadStrategy: 'eager' }]);
    expect(sent(request)).toMatchObject({ alwaysMatch: {}, firstMatch: [{ [options]: own }, {}] });
    expect(JSON.stringify(request.body)).not.toContain('webSocketUrl');
    expect(request.prompts).toEqual({ again: false });
  });

  it('starts no other program and reads no file unless the settings allow it', () => {
    for (const bad of [
      { binary: '/bin/sh' },
      { certificates: [] },
      { args: ['--user-agent=x'] },
      { args: ['/etc/passwd'] },
    ])
      expect(() => askWebkit({ [options]: bad })).toThrow(/not allowed here; set ISKEL_LAUNCH=any/);
    expect(
      sent(askWebkit({ [options]: { binary: '/bin/other' } }, undefined, true)).alwaysMatch[options],
    ).toMatchObject({
      binary: '/bin/other',
    });
  });
});

describe('for a Firefox of ours', () => {
  it('its own options are shown or refused in words, and everything else passes', () => {
    const request = ask(
      { browserName: 'firefox', 'moz:firefoxOptions': { args: ['-headless'] }, timeouts: { implicit: 5 } },
      undefined,
      false,
      firefoxLaunch,
    );
    expect(sent(request).alwaysMatch).toEqual({ browserName: 'firefox', timeouts: { implicit: 5 } });
    for (const options of [
      { binary: '/bin/sh' },
      { prefs: { 'browser.download.dir': '/' } },
      { args: ['--profile', '/root'] },
      { profile: 'UEsDB' },
    ])
      expect(() => ask({ 'moz:firefoxOptions': options }, undefined, false, firefoxLaunch)).toThrow(LaunchRefused);
  });
});

describe('for a remote endpoint', () => {
  const remote = remoteLaunch(true, { browserName: 'chrome', 'vendor:options': { team: 'harbour' } });
  it('what the settings add is added, ours is taken out, and a socket is asked for', () => {
    const request = ask({ 'iskel:attempt': { run: 'r' }, acceptInsecureCerts: true }, undefined, false, remote);
    expect(sent(request).alwaysMatch).toMatchObject({
      browserName: 'chrome',
      acceptInsecureCerts: true,
      webSocketUrl: true,
      'vendor:options': { team: 'harbour' },
    });
    expect(sent(request).alwaysMatch).not.toHaveProperty('iskel:attempt');
  });
  it('a client’s own word goes before the settings’, and alternatives never say a thing twice', () => {
    const request = ask({}, [{ browserName: 'chromium' }], false, remote);
    expect(sent(request).alwaysMatch).not.toHaveProperty('browserName');
  });
  it('its launch options are held to the same list', () => {
    expect(() => ask({ 'goog:chromeOptions': { binary: '/bin/sh' } }, undefined, false, remote)).toThrow(LaunchRefused);
  });
  it.each([
    { 'moz:firefoxOptions': { binary: '/bin/sh' } },
    { 'moz:firefoxOptions': { args: ['-profile', '/root'] } },
    { 'moz:firefoxOptions': { prefs: { 'browser.download.dir': '/root' } } },
    { 'ms:edgeOptions': { binary: '/bin/sh' } },
    { 'ms:edgeOptions': { args: ['--load-extension=/x'] } },
    { 'webkitgtk:browserOptions': { binary: '/bin/sh' } },
    { 'made-up:options': { anything: 1 } },
    { chromeOptions: { binary: '/bin/sh' } },
    JSON.parse('{"__proto__:x":{}}') as object,
  ])('what of another kind may reach that machine is refused: %j', (asked) => {
    expect(() => ask(asked as never, undefined, false, remote)).toThrow(LaunchRefused);
    expect(() => ask({}, [asked as never], false, remote)).toThrow(LaunchRefused);
    expect(() => ask(asked as never, undefined, true, remote)).not.toThrow();
  });
  it.each([
    { 'moz:firefoxOptions': { args: ['-headless'], prefs: { 'intl.accept_languages': 'tr' } } },
    { 'ms:edgeOptions': { args: ['--headless=new'] } },
    { proxy: { proxyType: 'direct' }, timeouts: { script: 1 } },
  ])('what stays in the page is passed on: %j', (asked) => {
    expect(sent(ask(asked as never, undefined, false, remote)).alwaysMatch).toMatchObject(asked);
  });
  it('without a socket none is asked for', () => {
    expect(sent(ask({}, undefined, false, remoteLaunch(false, {}))).alwaysMatch).not.toHaveProperty('webSocketUrl');
  });
});
