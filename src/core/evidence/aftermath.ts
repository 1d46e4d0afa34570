import type { CommandName } from './command-names.ts';
import type { StepEvent } from './event.ts';

/**
 * What runners do after a test has failed and before they report it: pictures, source, logs, cookies, settings put back.
 * None of it is the test's own, so none of it is where the test failed.
 */
const surely: ReadonlySet<CommandName> = new Set<CommandName>([
  'take screenshot',
  'take element screenshot',
  'print page',
  'get page source',
  'get cookies',
  'delete cookies',
  'get timeouts',
  'set timeouts',
  'get window handle',
  'get window handles',
  'get window rect',
  'release actions',
  'close window',
  'delete session',
]);

/** What is part of it only where something above is part of it, too: tests ask this themselves. */
const perhaps: ReadonlySet<CommandName> = new Set<CommandName>([
  'get current url',
  'get title',
  'dismiss alert',
  'get alert text',
  'switch to window',
  'switch to frame',
  'switch to parent frame',
]);

/** Scripts by which runners gather or tidy: the whole document, the browser's name, storage, coverage, logs kept in the page. */
const gathering =
  /outerHTML|innerHTML\s{0,9};?\s{0,9}$|navigator\.userAgent|(?:local|session)Storage|__coverage__|performance\.(?:getEntries|timing|memory)|document\.readyState|window\.(?:innerWidth|devicePixelRatio)|console\.log\.|scrollHeight/;

/** Vendors' own commands that hand out logs. */
const logs = /\/(?:se\/)?log(?:\/types)?$|\/browser\/(?:logs?|console)/i;

const isSure = ({ data }: StepEvent): boolean =>
  surely.has(data.command) ||
  (data.command === 'another command' && logs.test(data.subject ?? '')) ||
  (data.action === 'script' && gathering.test(data.input ?? '') && (data.input ?? '').length < 400) ||
  (data.command === 'navigate to' && /^(?:about:|data:)/.test(data.input ?? ''));

const isPerhaps = ({ data }: StepEvent): boolean => perhaps.has(data.command);

/**
 * How many of the last steps a runner added after the failure. A run of them counts from its first sure one on. What
 * comes right before that, an address or a title, may be what the test itself looked at: it is the runner's where the
 * step before it had failed already and the outcome does not speak of what it read.
 * @param steps commands in time order
 * @param message of the outcome
 */
export function aftermathOf(steps: readonly StepEvent[], message = ''): number {
  let first = steps.length;
  let begun = steps.length;
  for (let i = steps.length - 1; i >= 0; i--) {
    const step = steps[i]!;
    // What the outcome speaks of the test itself had read.
    if (begun < steps.length && isToldOf(step, message)) break;
    if (isSure(step)) first = i;
    else if (!isPerhaps(step)) break;
    begun = i;
  }
  if (first === steps.length) return 0;
  const between = steps.slice(begun, first);
  const toldOf = between.some((step) => isToldOf(step, message));
  return steps.length - (steps[begun - 1]?.data.error && !toldOf ? begun : first);
}

const isToldOf = ({ data }: StepEvent, message: string): boolean =>
  typeof data.result === 'string' && data.result !== '' && message.includes(data.result);
