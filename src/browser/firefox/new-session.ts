import { invalid, ClassicError } from './classic-error.ts';
import type { ClassicSession, PromptBehavior } from './session.ts';

type Json = Record<string, unknown>;

/** What a New Session command asks of a Firefox. */
export interface Wanted {
  acceptInsecureCerts?: boolean;
  proxy?: Json;
  timeouts?: Json;
  pageLoadStrategy?: 'none' | 'eager' | 'normal';
  promptBehavior?: PromptBehavior;
  strictFileInteractability?: boolean;
  webSocketUrl?: boolean;
}

const object = (value: unknown): Json | undefined =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : undefined;

const behaviors: ReadonlySet<unknown> = new Set([
  'dismiss',
  'accept',
  'dismiss and notify',
  'accept and notify',
  'ignore',
]);

/**
 * Reads the capabilities of a body as the specification's "processing capabilities": the first alternative that fits.
 * @throws ClassicError when one is wrong, or when none fits
 */
export function readCapabilities(body: Json, version: string): Wanted {
  const capabilities = object(body.capabilities);
  if (!capabilities) throw invalid('"capabilities" must be an object');
  const always = capabilities.alwaysMatch === undefined ? {} : object(capabilities.alwaysMatch);
  if (!always) throw invalid('"alwaysMatch" must be an object');
  const first = capabilities.firstMatch === undefined ? [{}] : capabilities.firstMatch;
  if (!Array.isArray(first) || first.length === 0) throw invalid('"firstMatch" must be a list with something in it');
  const merged = (first as unknown[]).map((one) => {
    const entry = object(one);
    if (!entry) throw invalid('"firstMatch" must be a list of objects');
    const twice = Object.keys(entry).find((key) => key in always);
    if (twice) throw invalid(`"${twice}" stands in both alwaysMatch and firstMatch`);
    return { ...always, ...entry };
  });
  const wanted = merged.map((entry) => validate(entry));
  const fits = merged.findIndex((entry) => matches(entry, version));
  if (fits < 0) throw new ClassicError('session not created', 'no alternative of the capabilities fits this Firefox');
  return wanted[fits]!;
}

function matches(entry: Json, version: string): boolean {
  const { browserName, browserVersion, platformName } = entry;
  if (browserName !== undefined && browserName !== null && browserName !== 'firefox') return false;
  if (
    platformName !== undefined &&
    platformName !== null &&
    platformName !== 'linux' &&
    platformName !== process.platform
  )
    return false;
  return (
    typeof browserVersion !== 'string' ||
    browserVersion === '' ||
    version.startsWith(browserVersion.replace(/^[<>=]+/, ''))
  );
}

function validate(entry: Json): Wanted {
  const out: Wanted = {};
  for (const [key, value] of Object.entries(entry)) {
    if (value === null) continue;
    switch (key) {
      case 'acceptInsecureCerts':
      case 'strictFileInteractability':
      case 'webSocketUrl':
        if (typeof value !== 'boolean') throw invalid(`"${key}" must be true or false`);
        out[key] = value;
        break;
      case 'setWindowRect':
        if (typeof value !== 'boolean') throw invalid(`"${key}" must be true or false`);
        break;
      case 'pageLoadStrategy':
        if (value !== 'none' && value !== 'eager' && value !== 'normal')
          throw invalid('"pageLoadStrategy" must be none, eager or normal');
        out.pageLoadStrategy = value;
        break;
      case 'timeouts':
      case 'proxy':
        if (!object(value)) throw invalid(`"${key}" must be an object`);
        out[key] = value as Json;
        break;
      case 'unhandledPromptBehavior': {
        const one = object(value)?.default ?? value;
        if (!behaviors.has(one)) throw invalid('"unhandledPromptBehavior" is none that is known');
        out.promptBehavior = one as PromptBehavior;
        break;
      }
      case 'browserName':
      case 'browserVersion':
      case 'platformName':
        if (typeof value !== 'string') throw invalid(`"${key}" must be a text`);
        break;
      default:
        if (!key.includes(':')) throw invalid(`"${key}" is no capability`);
    }
  }
  return out;
}

/** What the session answers of itself. */
export function classicCapabilities(told: Json, session: ClassicSession, wanted: Wanted): Json {
  const { browserVersion, platformName, acceptInsecureCerts } = told;
  return {
    browserName: 'firefox',
    browserVersion,
    platformName,
    acceptInsecureCerts: acceptInsecureCerts ?? false,
    pageLoadStrategy: session.pageLoadStrategy,
    proxy: wanted.proxy ?? {},
    setWindowRect: true,
    strictFileInteractability: wanted.strictFileInteractability ?? false,
    timeouts: { ...session.timeouts },
    unhandledPromptBehavior: session.promptBehavior,
    userAgent: told.userAgent,
    webSocketUrl: true,
  };
}
