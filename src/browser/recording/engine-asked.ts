import type { EngineName } from '../engine-names.ts';

/** Browser names of the W3C capability `browserName`, by engine. */
const browserNames: Record<EngineName, RegExp> = {
  chromium: /^(chrome|chromium|chrome-headless-shell)$/i,
  firefox: /^firefox$/i,
  webkit: /^(webkit|webkitgtk|minibrowser|safari)$/i,
};

/** The engine a browser name stands for; undefined for a name no engine here answers to. */
export function engineNamed(browserName: unknown): EngineName | undefined {
  if (typeof browserName !== 'string') return undefined;
  return (Object.keys(browserNames) as EngineName[]).find((engine) => browserNames[engine].test(browserName));
}
