import type { Engine } from '../engines.ts';
import { engineNamed } from './engine-asked.ts';
import type { AttemptRequest } from './sink.ts';
import { createMasker } from '../../core/evidence/masking.ts';
import { isAttemptNumber } from '../../core/records.ts';
import { textOf } from './steps.ts';

type Json = Record<string, unknown>;

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

export interface SessionRequest {
  /** The body to send to the driver. */
  body: Json;
  attempt: AttemptRequest;
  /** The window size the client asked for by launch argument. */
  size?: { width: number; height: number };
  prompts: PromptHandling;
  /** True when the client itself asked for a BiDi socket. */
  wantsSocket: boolean;
}

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

/** Says in words why a session may not be launched as asked, naming the setting that would allow it. */
export class LaunchRefused extends Error {}

/**
 * Reads a New Session body: takes our own capability out, asks for the BiDi socket where the engine
 * has one, adds what a browser needs to be launched on a machine without a screen.
 * @param engine the engine whose driver will get the body
 * @param anyLaunch true when the local settings allow every launch option
 * @throws LaunchRefused for an option that is not on the safe list
 */
export function readSessionRequest(body: Json, engine: Engine, anyLaunch: boolean): SessionRequest {
  const capabilities = asObject(body.capabilities);
  if (!capabilities) throw new LaunchRefused('“capabilities” must be an object');
  const always = { ...readEntry(capabilities.alwaysMatch ?? {}, 'alwaysMatch') };
  const first = readEntries(capabilities.firstMatch);
  const attempt =
    asObject(always['iskel:attempt']) ?? first.map((entry) => asObject(entry['iskel:attempt'])).find(Boolean) ?? {};
  const wantsSocket = [always, ...first].some((entry) => entry.webSocketUrl === true);
  const { alwaysSent, firstSent } =
    engine.name === 'webkit' ? forWebkit(always, first, engine, anyLaunch) : forChromium(always, first, anyLaunch);
  const prompts: PromptHandling =
    engine.name === 'webkit' ? { again: false } : handlePrompts([alwaysSent, ...firstSent], wantsSocket);
  return {
    prompts,
    // Nothing else of the body: what is not read here is not for the driver to read either.
    body: { capabilities: { alwaysMatch: alwaysSent, firstMatch: firstSent } },
    attempt: cleanAttempt(attempt),
    wantsSocket,
    ...sizeOf([always, ...first]),
  };
}

const mostEntries = 50;

function readEntry(entry: unknown, name: string): Json {
  const read = asObject(entry);
  if (!read) throw new LaunchRefused(`“${name}” must be an object`);
  return read;
}

function readEntries(told: unknown): Json[] {
  if (told === undefined) return [{}];
  if (!Array.isArray(told) || told.length === 0 || told.length > mostEntries)
    throw new LaunchRefused(`“firstMatch” must be a list of 1 to ${mostEntries} objects`);
  return told.map((entry) => readEntry(entry, 'firstMatch'));
}

interface Sent {
  alwaysSent: Json;
  firstSent: Json[];
}

function forChromium(always: Json, first: readonly Json[], anyLaunch: boolean): Sent {
  const isolated = first.map((entry) => without(entry, 'iskel:attempt', 'webSocketUrl'));
  for (const entry of [always, ...isolated]) if (!anyLaunch) refuseUnsafe(asObject(entry['goog:chromeOptions']));
  const inFirst = isolated.some((entry) => entry['goog:chromeOptions'] !== undefined);
  const alwaysSent = without(always, 'iskel:attempt', 'webSocketUrl');
  alwaysSent.webSocketUrl = true;
  if (!inFirst) alwaysSent['goog:chromeOptions'] = withArguments(asObject(always['goog:chromeOptions']));
  const firstSent = inFirst
    ? isolated.map((entry) => ({
        ...entry,
        'goog:chromeOptions': withArguments(asObject(entry['goog:chromeOptions'])),
      }))
    : isolated;
  return { alwaysSent, firstSent };
}

const webkitOptions = 'webkitgtk:browserOptions';

/**
 * The driver starts whatever program it is told to, so it is told ours. A name other than the
 * browser's own is left out: what was meant by it is known by now.
 */
function forWebkit(always: Json, first: readonly Json[], engine: Engine, anyLaunch: boolean): Sent {
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
    if (!anyLaunch) refuseUnsafeWebkit(options, engine);
    const args = Array.isArray(options.args) ? (options.args as string[]) : [];
    options.binary ??= engine.browser;
    options.args = args.includes('--automation') ? args : ['--automation', ...args];
    entry[webkitOptions] = options;
  }
  return { alwaysSent, firstSent };
}

/** The window's size and how pages look; anything else may read or run what is on this machine. */
const safeWebkitArgument = /^--(automation|private|dark-mode|full-screen|geometry=\d+x\d+|editor-mode)$/;

function refuseUnsafeWebkit(options: Json, engine: Engine): void {
  for (const [key, value] of Object.entries(options)) {
    const safe = key === 'args' || key === 'useOverlayScrollbars' || (key === 'binary' && value === engine.browser);
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

function refuseUnsafe(options: Json | undefined): void {
  if (!options) return;
  for (const key of Object.keys(options)) {
    if (!safeOptions.has(key)) throw new LaunchRefused(`goog:chromeOptions.${key} is not allowed here; ${howToAllow}`);
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

/** Of tags, labels and secrets, so many are read. */
const mostTexts = 500;

const secretsOf = (raw: Json): string[] =>
  (Array.isArray(raw.secrets) ? (raw.secrets as unknown[]) : [])
    .filter((secret): secret is string => typeof secret === 'string' && secret.length >= 3)
    .slice(0, mostTexts);

/** Keeps what has the right type and leaves the rest: a wrong label must not cost a test its session. */
function cleanAttempt(raw: Json): AttemptRequest {
  const test = asObject(raw.test);
  // Declared secrets go before anything is cut.
  const masker = createMasker(secretsOf(raw));
  const texts = (value: unknown): string[] =>
    Array.isArray(value) ? value.filter((item): item is string => typeof item === 'string').slice(0, mostTexts) : [];
  const text = (value: unknown): string | undefined =>
    typeof value === 'string' && value !== '' ? masker.cut(value, 500) : undefined;
  const labels = asObject(raw.labels);
  return compact({
    run: text(raw.run),
    test:
      test &&
      compact({
        suite: text(test.suite),
        title: text(test.title),
        file: text(test.file),
        params: asObject(test.params),
      }),
    number: isAttemptNumber(raw.number) ? raw.number : undefined,
    tags: texts(raw.tags).map((tag) => masker.cut(tag, 200)),
    labels:
      labels &&
      Object.fromEntries(
        Object.entries(labels)
          .slice(0, mostTexts)
          .map(([key, value]) => [masker.cut(key, 100), masker.cut(textOf(value), 1000)]),
      ),
    commit: text(raw.commit),
    branch: text(raw.branch),
    shard: text(raw.shard),
    worker: text(raw.worker),
    secrets: secretsOf(raw),
    detail: raw.detail === 'light' || raw.detail === 'full' ? raw.detail : 'standard',
  });
}

function sizeOf(entries: readonly Json[]): Pick<SessionRequest, 'size'> {
  for (const entry of entries) {
    const args = asObject(entry['goog:chromeOptions'])?.args;
    for (const arg of Array.isArray(args) ? (args as unknown[]) : []) {
      const found = /window-size=(\d{1,5}),(\d{1,5})/.exec(textOf(arg));
      if (found) return { size: { width: Number(found[1]), height: Number(found[2]) } };
    }
  }
  return {};
}

const compact = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, content]) => content !== undefined)) as T;

const without = (value: Json, ...keys: string[]): Json =>
  Object.fromEntries(Object.entries(value).filter(([key]) => !keys.includes(key)));

const asObject = (value: unknown): Json | undefined =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : undefined;
