/**
 * What a client inside its session may do that reaches beyond the page: open this machine's files, write downloads
 * where it likes, speak to the whole browser through its debugging protocol. Closed off unless the local settings
 * allow every launch (`ISKEL_LAUNCH=any`). What is not named here is the protocol's own business.
 */
type Json = Record<string, unknown>;

const howToAllow = 'set ISKEL_LAUNCH=any for the server to allow it';

/** Schemes that show what a site sends, or nothing. */
const openable: ReadonlySet<string> = new Set(['http:', 'https:', 'data:', 'blob:', 'ws:', 'wss:', 'javascript:']);

/** Why an address may not be opened. What is no address at all is left to the browser, which says so. */
export function refusesAddress(address: unknown): string | undefined {
  if (typeof address !== 'string') return undefined;
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    // A browser reads no more out of it than we do.
    return undefined;
  }
  if (openable.has(url.protocol)) return undefined;
  if (url.protocol === 'about:' && /^(blank|srcdoc)$/.test(url.pathname)) return undefined;
  return `addresses that begin with “${url.protocol.slice(0, 40)}” show what is on this machine and are not opened here; ${howToAllow}`;
}

/** Domains of the debugging protocol that stay within the page; of these, what does not. */
const pageDomains: ReadonlySet<string> = new Set(
  (
    'Accessibility Animation Audits CSS Console DOM DOMDebugger DOMSnapshot DOMStorage Debugger DeviceOrientation ' +
    'Emulation Fetch HeapProfiler IndexedDB Input Inspector LayerTree Log Media Network Overlay Page Performance ' +
    'PerformanceTimeline Profiler Runtime Schema Security ServiceWorker Storage WebAudio WebAuthn'
  ).split(' '),
);
const beyondThePage: ReadonlySet<string> = new Set([
  'DOM.setFileInputFiles',
  'DOM.getFileInfo',
  'Network.loadNetworkResource',
  'Page.setDownloadBehavior',
  'Page.handleFileChooser',
]);
const harmlessElsewhere: ReadonlySet<string> = new Set([
  'Browser.getVersion',
  'Browser.getWindowForTarget',
  'Browser.getWindowBounds',
  'Browser.setWindowBounds',
  'Browser.grantPermissions',
  'Browser.setPermission',
  'Browser.resetPermissions',
  'SystemInfo.getInfo',
]);

function refusesDebugging(method: unknown, params: unknown): string | undefined {
  const name = typeof method === 'string' ? method : '';
  const domain = name.split('.', 1)[0]!;
  const stays = (pageDomains.has(domain) && !beyondThePage.has(name)) || harmlessElsewhere.has(name);
  const given = (params as { data?: { files?: unknown } | null } | null | undefined)?.data?.files;
  if (name === 'Input.dispatchDragEvent' && given !== undefined && (!Array.isArray(given) || given.length > 0))
    return `files of this machine are not dragged into pages; ${howToAllow}`;
  if (!stays) return `the debugging command “${name.slice(0, 80)}” reaches beyond the page; ${howToAllow}`;
  return refusesAddress((params as Json | null | undefined)?.url);
}

/** Vendor commands that stay within the page. */
const harmlessVendor = /^\/(?:chromium\/network_conditions|goog\/page\/(?:freeze|resume)|goog\/device_posture)$/;
const debugging = /^\/(?:goog\/cdp\/execute|chromium\/send_command(?:_and_get_result)?)$/;
const vendor = /^\/(?:goog|chromium|cast|ms|moz|webkit|apple)(?:[/:]|$)/i;

/** Whether a command's body decides what it reaches, so that it has to be read. */
export const readsBody = (method: string, tail: string): boolean =>
  method === 'POST' && (tail === '/url' || debugging.test(tail));

/**
 * Why a command of a client may not be done.
 * @param tail the path after the session @param body as it was read; undefined when it could not be
 */
export function refusesCommand(method: string, tail: string, body: Json | undefined): string | undefined {
  if (readsBody(method, tail)) {
    if (!body) return 'the body of this command is no JSON object';
    return tail === '/url' ? refusesAddress(body.url) : refusesDebugging(body.cmd, body.params);
  }
  if (vendor.test(tail) && !harmlessVendor.test(tail))
    return `the command “${tail.slice(0, 80)}” may reach beyond the page; ${howToAllow}`;
  return undefined;
}

/** BiDi commands that write to this machine's disk, or run what lies there. */
const beyondBidi: ReadonlySet<string> = new Set(['browser.setDownloadBehavior', 'webExtension.install']);

/** A BiDi message that may not be passed on, with what its sender is told. */
export interface RefusedMessage {
  id: number | null;
  message: string;
}

/** Looks at one message of a client's own BiDi socket. */
export function refusesMessage(text: string): RefusedMessage | undefined {
  let told: unknown;
  try {
    told = JSON.parse(text);
  } catch {
    return { id: null, message: 'this message is not readable as JSON' };
  }
  if (told === null || typeof told !== 'object') return { id: null, message: 'a message is a JSON object' };
  const { id, method, params } = told as { id?: unknown; method?: unknown; params?: Json | null };
  const why = reasonAgainst(method, params ?? {});
  return why === undefined ? undefined : { id: Number.isSafeInteger(id) ? (id as number) : null, message: why };
}

function reasonAgainst(method: unknown, params: Json): string | undefined {
  if (typeof method !== 'string') return undefined;
  if (beyondBidi.has(method)) return `“${method}” reaches this machine's files; ${howToAllow}`;
  if (/^(?:goog:)?cdp\./.test(method) && /sendCommand$/.test(method))
    return refusesDebugging(params.method, params.params);
  return method === 'browsingContext.navigate' || method === 'network.continueRequest'
    ? refusesAddress(params.url)
    : undefined;
}
