import { engineNamed } from './engine-asked.ts';
import { textOf } from './steps.ts';

type Json = Record<string, unknown>;

/** What a New Session command asks, as it is read. */
export interface LaunchAsked {
  always: Json;
  first: readonly Json[];
  /** The local settings allow every launch option. */
  anyLaunch: boolean;
  /** The client itself asked for a BiDi socket. */
  wantsSocket: boolean;
}

/**
 * Makes of what is asked what a place takes.
 * @throws LaunchRefused for an option that is not on the safe list
 */
export type Launch = (asked: LaunchAsked) => { alwaysSent: Json; firstSent: Json[]; prompts?: PromptHandling };

/** Says in words why a session may not be launched as asked, naming the setting that would allow it. */
export class LaunchRefused extends Error {}

/**
 * With a BiDi socket open, Chromium's driver answers dialogs at once where a classic session leaves
 * them to the next command. Told in the form of a map, it leaves them; the map is taken back out of
 * the answer. The two silent handlings are then done here: their command is sent once more.
 */
export interface PromptHandling {
  /** What stands in the answered capabilities in place of our map. */
  told?: string;
  again: boolean;
}

function handlePrompts(entries: Json[], clientHasSocket: boolean): PromptHandling {
  if (clientHasSocket) return { again: false };
  const entry = entries.find((one) => one.unhandledPromptBehavior !== undefined) ?? entries[0]!;
  const asked = entry.unhandledPromptBehavior ?? 'dismiss and notify';
  // A map, or something no driver knows: the driver's own answer to it is the right one.
  if (
    typeof asked !== 'string' ||
    !/^(dismiss|accept|ignore)( and notify)?$/.test(asked) ||
    asked === 'ignore and notify'
  )
    return { again: false };
  const silent = asked === 'dismiss' || asked === 'accept';
  entry.unhandledPromptBehavior = { default: silent ? `${asked} and notify` : asked };
  return { told: asked, again: silent };
}

/** Chromium's own calls out fail noisily on closed networks, and a machine without a screen needs headless. */
const baseArguments = [
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/**
 * Launch arguments a client may set without more leave: they change what the page sees, not what is
 * run or read on this machine. Anything else needs `ISKEL_LAUNCH=any`.
 */
const safeArguments =
  /^--?(headless(=(new|old))?|no-sandbox|disable-gpu|disable-dev-shm-usage|window-size=\d+,\d+|window-position=-?\d+,-?\d+|start-maximized|start-fullscreen|kiosk|incognito|lang=[\w-]+|accept-lang=[\w,;=.-]+|force-device-scale-factor=[\d.]+|hide-scrollbars|mute-audio|disable-notifications|disable-popup-blocking|disable-infobars|disable-extensions|disable-default-apps|disable-search-engine-choice-screen|no-default-browser-check|no-first-run|disable-background-networking|disable-component-update|disable-sync|disable-quic|disable-translate|disable-features=[\w,]+|enable-features=[\w,]+|disable-blink-features=[\w,]+|disable-background-timer-throttling|disable-backgrounding-occluded-windows|disable-renderer-backgrounding|disable-ipc-flooding-protection|disable-hang-monitor|disable-prompt-on-repost|disable-client-side-phishing-detection|disable-smooth-scrolling|force-prefers-reduced-motion|force-dark-mode|force-color-profile=[\w-]+|font-render-hinting=\w+|blink-settings=[\w=,.]+|user-agent=.*|touch-events(=\w+)?|ignore-certificate-errors|allow-insecure-localhost|use-fake-device-for-media-stream|use-fake-ui-for-media-stream|deny-permission-prompts|enable-automation|test-type(=\w+)?|disable-setuid-sandbox|disable-software-rasterizer)$/;
const safeOptions = new Set([
  'args',
  'mobileEmulation',
  'excludeSwitches',
  'perfLoggingPrefs',
  'windowTypes',
  'detach',
  'prefs',
]);
/** Preferences that name places on this machine's disk. */
const placedPreference = /dir|path|file|profile\.name/i;
/** What a preference would have opened or written on this machine. */
const placeValue = /^\s*(?:file|chrome|devtools|view-source|filesystem):|^\s*(?:[/~]|[A-Za-z]:\\)/i;

/** For Chromium: with the socket, and with what it needs on a machine without a screen. */
export const chromiumLaunch: Launch = ({ always, first, anyLaunch, wantsSocket }) => {
  const isolated = first.map((entry) => named(without(entry, 'iskel:attempt', 'webSocketUrl')));
  for (const entry of [always, ...isolated]) if (!anyLaunch) refuseUnsafe(asObject(entry['goog:chromeOptions']));
  const inFirst = isolated.some((entry) => entry['goog:chromeOptions'] !== undefined);
  const alwaysSent = named(without(always, 'iskel:attempt', 'webSocketUrl'));
  alwaysSent.webSocketUrl = true;
  if (!inFirst) alwaysSent['goog:chromeOptions'] = withArguments(asObject(always['goog:chromeOptions']));
  const firstSent = inFirst
    ? isolated.map((entry) => ({
        ...entry,
        'goog:chromeOptions': withArguments(asObject(entry['goog:chromeOptions'])),
      }))
    : isolated;
  return { alwaysSent, firstSent, prompts: handlePrompts([alwaysSent, ...firstSent], wantsSocket) };
};

/** The driver answers to one name only; its engine has another. */
const named = (entry: Json): Json =>
  typeof entry.browserName === 'string' && /^chromium$/i.test(entry.browserName)
    ? { ...entry, browserName: 'chrome' }
    : entry;

const webkitOptions = 'webkitgtk:browserOptions';

/**
 * The driver starts whatever program it is told to, so it is told ours. A name other than the
 * browser's own is left out: what was meant by it is known by now.
 */
export const webkitLaunch =
  (browser: string): Launch =>
  ({ always, first, anyLaunch }) => {
    const own = (entry: Json): Json => {
      const sent = without(entry, 'iskel:attempt');
      if (engineNamed(sent.browserName) === 'webkit' && sent.browserName !== 'MiniBrowser') delete sent.browserName;
      return sent;
    };
    const alwaysSent = own(always);
    const firstSent = first.map(own);
    const told = [alwaysSent, ...firstSent].filter((entry) => entry[webkitOptions] !== undefined);
    for (const entry of told.length ? told : [alwaysSent]) {
      const options = { ...asObject(entry[webkitOptions]) };
      if (!anyLaunch) refuseUnsafeWebkit(options, browser);
      const args = Array.isArray(options.args) ? (options.args as string[]) : [];
      options.binary ??= browser;
      options.args = args.includes('--automation') ? args : ['--automation', ...args];
      entry[webkitOptions] = options;
    }
    return { alwaysSent, firstSent };
  };

/** The window's size and how pages look; anything else may read or run what is on this machine. */
const safeWebkitArgument = /^--(automation|private|dark-mode|full-screen|geometry=\d+x\d+|editor-mode)$/;

/** @param browser the program that is started anyway, where it is known */
function refuseUnsafeWebkit(options: Json, browser: string | undefined): void {
  for (const [key, value] of Object.entries(options)) {
    const safe =
      key === 'args' ||
      key === 'useOverlayScrollbars' ||
      (key === 'binary' && browser !== undefined && value === browser);
    if (!safe) throw new LaunchRefused(`${webkitOptions}.${key} is not allowed here; ${howToAllow}`);
  }
  for (const arg of Array.isArray(options.args) ? (options.args as unknown[]) : [])
    if (!safeWebkitArgument.test(textOf(arg)))
      throw new LaunchRefused(`the launch argument “${textOf(arg)}” is not allowed here; ${howToAllow}`);
}

function withArguments(options: Json | undefined): Json {
  const asked = Array.isArray(options?.args) ? (options.args as string[]) : [];
  const has = (name: string): boolean => asked.some((arg) => arg.replace(/^-*/, '').split('=')[0] === name);
  const added = baseArguments.filter((arg) => !has(arg.slice(2)));
  if (!process.env.DISPLAY && !process.env.WAYLAND_DISPLAY && !has('headless'))
    added.push('--headless=new', '--disable-gpu');
  if (process.getuid?.() === 0 && !has('no-sandbox')) added.push('--no-sandbox');
  return { ...options, args: [...asked, ...added] };
}

const howToAllow = 'set ISKEL_LAUNCH=any for the server to allow every launch option';

function refuseUnsafe(options: Json | undefined, name = 'goog:chromeOptions'): void {
  if (!options) return;
  for (const key of Object.keys(options)) {
    if (!safeOptions.has(key)) throw new LaunchRefused(`${name}.${key} is not allowed here; ${howToAllow}`);
  }
  for (const arg of Array.isArray(options.args) ? (options.args as unknown[]) : []) {
    const told = textOf(arg);
    const text = told.startsWith('-') ? told : `--${told}`;
    if (!safeArguments.test(text))
      throw new LaunchRefused(`the launch argument “${text}” is not allowed here; ${howToAllow}`);
  }
  refusePlaces(options.prefs, '');
}

/** Preferences are looked through to their leaves: they may be given dotted, nested, or half and half. */
function refusePlaces(told: unknown, path: string): void {
  if (path && placedPreference.test(path))
    throw new LaunchRefused(`the preference “${path}” is not allowed here; ${howToAllow}`);
  if (typeof told === 'string' && placeValue.test(told))
    throw new LaunchRefused(`the preference “${path}” names a place on this machine; ${howToAllow}`);
  if (told === null || typeof told !== 'object') return;
  for (const [key, value] of Object.entries(told)) refusePlaces(value, path ? `${path}.${key}` : key);
}

const firefoxOptions = 'moz:firefoxOptions';
/** What changes how a Firefox of ours is shown; it runs without a screen anyway. */
const safeFirefoxArgument = /^--?(?:headless|private|private-window)$/;

/** For a Firefox behind our front: programs, profiles and preferences of a client's own are not started here. */
export const firefoxLaunch: Launch = ({ always, first, anyLaunch }) => {
  const own = (entry: Json): Json => {
    const options = asObject(entry[firefoxOptions]) ?? {};
    for (const [key, value] of Object.entries(options)) {
      const args = key === 'args' && Array.isArray(value) ? (value as unknown[]) : undefined;
      if (!args)
        throw new LaunchRefused(`${firefoxOptions}.${key} cannot be had here: Firefox is started by Iskel itself`);
      if (!anyLaunch) refuseFirefoxArguments(args);
    }
    return without(entry, 'iskel:attempt', firefoxOptions);
  };
  const alwaysSent = own(always);
  return { alwaysSent, firstSent: first.map(own) };
};

/**
 * For a remote endpoint: as it was asked, but for what is ours, with what its settings add and with the socket where it
 * has one. Launch options are held to the same list: what a session may reach there is no stranger's either.
 */
export const remoteLaunch =
  (socket: boolean, capabilities: Json): Launch =>
  ({ always, first, anyLaunch, wantsSocket }) => {
    const own = (entry: Json): Json => {
      if (!anyLaunch) refuseUnknown(entry);
      return without(entry, 'iskel:attempt', 'webSocketUrl');
    };
    const firstSent = first.map(own);
    const added = Object.fromEntries(
      Object.entries(capabilities).filter(([key]) => !firstSent.some((entry) => key in entry)),
    );
    const alwaysSent: Json = { ...added, ...own(always), ...(socket ? { webSocketUrl: true } : {}) };
    return {
      alwaysSent,
      firstSent,
      ...(socket ? { prompts: handlePrompts([alwaysSent, ...firstSent], wantsSocket) } : {}),
    };
  };

/** Capabilities of the standard; what a provider of browsers adds of its own belongs into the settings of its place. */
const standard: ReadonlySet<string> = new Set([
  'acceptInsecureCerts',
  'browserName',
  'browserVersion',
  'pageLoadStrategy',
  'platformName',
  'proxy',
  'setWindowRect',
  'strictFileInteractability',
  'timeouts',
  'unhandledPromptBehavior',
  'userAgent',
  'webSocketUrl',
  'iskel:attempt',
  'goog:loggingPrefs',
  'moz:debuggerAddress',
]);

/** Launch options of the browsers that are known, each held to its own list; of all others nothing is known. */
const vendorChecks: Readonly<Record<string, (options: Json, name: string) => void>> = {
  'goog:chromeOptions': refuseUnsafe,
  'ms:edgeOptions': refuseUnsafe,
  [firefoxOptions]: refuseUnsafeFirefox,
  [webkitOptions]: (options) => refuseUnsafeWebkit(options, undefined),
};

function refuseUnknown(entry: Json): void {
  for (const [key, value] of Object.entries(entry)) {
    if (standard.has(key)) continue;
    const check = Object.hasOwn(vendorChecks, key) ? vendorChecks[key] : undefined;
    const options = asObject(value);
    if (!check || !options)
      throw new LaunchRefused(
        `the capability “${key.slice(0, 80)}” is not passed on from here: name it among the “capabilities” of the place in the settings file, or ${howToAllow}`,
      );
    check(options, key);
  }
}

function refuseUnsafeFirefox(options: Json): void {
  for (const [key, value] of Object.entries(options)) {
    if (key === 'prefs') refusePlaces(value, '');
    else if (key !== 'args' || !Array.isArray(value))
      throw new LaunchRefused(`${firefoxOptions}.${key} is not allowed here; ${howToAllow}`);
    else refuseFirefoxArguments(value);
  }
}

function refuseFirefoxArguments(args: readonly unknown[]): void {
  const refused = args.find((arg) => !safeFirefoxArgument.test(textOf(arg)));
  if (refused !== undefined)
    throw new LaunchRefused(`the launch argument “${textOf(refused)}” is not allowed here; ${howToAllow}`);
}

const without = (value: Json, ...keys: string[]): Json =>
  Object.fromEntries(Object.entries(value).filter(([key]) => !keys.includes(key)));

const asObject = (value: unknown): Json | undefined =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : undefined;
