import type { EngineName } from '../engines.ts';

/** Browser names of the W3C capability `browserName`, by engine. */
const browserNames: Record<EngineName, RegExp> = {
  chromium: /^(chrome|chromium|chrome-headless-shell)$/i,
  webkit: /^(webkit|webkitgtk|minibrowser|safari)$/i,
};

/** The engine a browser name stands for; undefined for a name no engine here answers to. */
export function engineNamed(browserName: unknown): EngineName | undefined {
  if (typeof browserName !== 'string') return undefined;
  return (Object.keys(browserNames) as EngineName[]).find((engine) => browserNames[engine].test(browserName));
}

/**
 * The engine a New Session command asks for: the first of its alternatives that this machine has,
 * else the first it names. One that names none, or one unknown here, goes to Chromium, whose driver
 * then answers in its own words.
 */
export function engineAsked(capabilities: unknown, have: (engine: EngineName) => boolean): EngineName {
  const { alwaysMatch, firstMatch } = (capabilities ?? {}) as { alwaysMatch?: unknown; firstMatch?: unknown };
  const entries = [alwaysMatch, ...(Array.isArray(firstMatch) ? (firstMatch as unknown[]) : [])];
  const named = entries.map((entry) => engineNamed((entry as { browserName?: unknown } | undefined)?.browserName));
  const asked = named.filter((engine) => engine !== undefined);
  return asked.find(have) ?? asked[0] ?? 'chromium';
}
