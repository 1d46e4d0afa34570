import { stackOf } from '../demo/suite/stack.ts';
import type { FerryTest } from '../demo/suite/tests.ts';
import { WebDriverError, type Element, type WebDriver } from '../demo/suite/webdriver.ts';
import { deliver } from '../src/browser/devtools/deliver.ts';
import type { Client } from './devtools-client.ts';
import { attemptsOfRun, eventually, type AttemptView } from './helpers.ts';

type Json = Record<string, unknown>;
interface Held {
  objectId?: string;
  subtype?: string;
  value?: unknown;
}

/** Waits so long for a page, as runners do, ms. */
const loadMs = 10_000;

/**
 * The ferry suite's driver over DevTools, as a runner of that kind drives a browser: an isolated context a test, objects
 * of the page as elements, presses at points that are looked at first, keys one by one.
 */
export async function devtoolsDriver({ send, next }: Client): Promise<WebDriver> {
  const { browserContextId } = await send<{ browserContextId: string }>('Target.createBrowserContext');
  const { targetId: first } = await send<{ targetId: string }>('Target.createTarget', {
    url: 'about:blank',
    width: 1280,
    height: 800,
    browserContextId,
  });
  const sessions = new Map<string, string>();
  let session = '';
  const enter = async (targetId: string): Promise<void> => {
    const known = sessions.get(targetId);
    if (known !== undefined) return void (session = known);
    const { sessionId } = await send<{ sessionId: string }>('Target.attachToTarget', { targetId, flatten: true });
    sessions.set(targetId, sessionId);
    session = sessionId;
    await Promise.all([tell('Page.enable'), tell('Runtime.enable')]);
  };
  const tell = <T = Json>(method: string, params: Json = {}): Promise<T> => send<T>(method, params, session);

  /** A function of the page, called on one of its objects. */
  const on = async <T>(objectId: string, source: string, byValue = true): Promise<T> => {
    const { result, exceptionDetails } = await tell<{ result: Held; exceptionDetails?: { text: string } }>(
      'Runtime.callFunctionOn',
      { objectId, functionDeclaration: source, returnByValue: byValue },
    ).catch(() => {
      throw new WebDriverError('stale element reference', 'the page of this element is gone');
    });
    if (exceptionDetails) throw new Error(exceptionDetails.text);
    return (byValue ? result.value : result) as T;
  };
  const held = async (expression: string): Promise<string | undefined> => {
    const { result } = await tell<{ result: Held }>('Runtime.evaluate', { expression });
    return result.subtype === 'null' ? undefined : result.objectId;
  };
  const elementOf = (objectId: string): Element =>
    ({
      click: async () => {
        const at = await on<{ x: number; y: number; over?: string; gone?: boolean }>(
          objectId,
          `function () {
            if (!this.isConnected) return { gone: true };
            this.scrollIntoView({ block: 'nearest', behavior: 'instant' });
            const box = this.getBoundingClientRect();
            const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
            const hit = document.elementFromPoint(at.x, at.y);
            return !hit || this.contains(hit) || hit.contains(this) ? at : { ...at, over: hit.outerHTML.slice(0, 80) };
          }`,
        );
        if (at.gone) throw new WebDriverError('stale element reference', 'the element is no longer in the document');
        if (at.over)
          throw new WebDriverError('element click intercepted', `another element would take the press: ${at.over}`);
        for (const type of ['mouseMoved', 'mousePressed', 'mouseReleased'])
          await tell('Input.dispatchMouseEvent', { type, x: at.x, y: at.y, button: 'left', clickCount: 1 });
      },
      type: async (text: string) => {
        await on(objectId, 'function () { this.focus(); }');
        for (const key of text) {
          await tell('Input.dispatchKeyEvent', { type: 'keyDown', key, text: key });
          await tell('Input.dispatchKeyEvent', { type: 'keyUp', key });
        }
      },
      text: () => on<string>(objectId, 'function () { return this.innerText; }'),
      value: () => on<string>(objectId, 'function () { return this.value; }'),
      displayed: () => on<boolean>(objectId, 'function () { return this.checkVisibility(); }'),
    }) as Element;
  const found = async (expression: string, what: string): Promise<Element> => {
    const objectId = await held(expression);
    if (objectId === undefined) throw new WebDriverError('no such element', `nothing matches ${what}`);
    return elementOf(objectId);
  };

  await enter(first);
  const driver = {
    open: async (address: string) => {
      const loaded = next('Page.loadEventFired', session);
      await tell('Page.navigate', { url: address });
      await Promise.race([loaded, new Promise((done) => setTimeout(done, loadMs).unref())]);
    },
    find: (css: string) => found(`document.querySelector(${JSON.stringify(css)})`, css),
    findAll: async (css: string) => {
      const list = await held(`document.querySelectorAll(${JSON.stringify(css)})`);
      const count = await on<number>(list!, 'function () { return this.length; }');
      return Promise.all(
        Array.from({ length: count }, async (_, i) =>
          elementOf((await on<Held>(list!, `function () { return this[${i}]; }`, false)).objectId!),
        ),
      );
    },
    link: (text: string) =>
      found(
        `[...document.querySelectorAll('a')].find((one) => one.innerText.trim() === ${JSON.stringify(text)}) ?? null`,
        `a link that reads ${text}`,
      ),
    windows: async () => {
      const { targetInfos } = await send<{ targetInfos: Json[] }>('Target.getTargets');
      const own = targetInfos.filter((one) => one.type === 'page' && one.browserContextId === browserContextId);
      return own.map(({ targetId }) => String(targetId)).sort((a, b) => Number(b === first) - Number(a === first));
    },
    toWindow: (handle: string) => enter(handle),
    screenshot: async () => (await tell<{ data: string }>('Page.captureScreenshot')).data,
    note: () => Promise.resolve(),
    outcome: () => Promise.resolve(),
    quit: async () => void (await send('Target.disposeBrowserContext', { browserContextId })),
  };
  return driver as unknown as WebDriver;
}

const xml = (text: string): string => text.replace(/[<>&"\n]/g, (one) => `&#${one.charCodeAt(0)};`);

/**
 * Delivers what was recorded of a run, drops the runner's report after it, and waits until each recording is told of.
 * @param cases those of the report, one for each recording
 * @returns the status with which the report was taken in
 */
export async function reportAfterwards(
  server: string,
  { spool, run, report, cases }: { spool: string; run: string; report: string; cases: readonly string[] },
): Promise<number> {
  const recorded = (): Promise<AttemptView[]> => attemptsOfRun(server, (name) => name === run);
  await eventually(
    async () => {
      await deliver(spool);
      return recorded();
    },
    (list) => list.length === cases.length,
    60_000,
  );
  const form = new FormData();
  form.append('file', new Blob([`<testsuite name="ferry">${cases.join('')}</testsuite>`]), report);
  const { status } = await fetch(`${server}/api/intake`, { method: 'POST', body: form });
  await eventually(recorded, (list) => list.length === 0, 60_000);
  return status;
}

/** Plays one test of the ferry suite in a context of its own. @returns its case in the report of the runner */
export async function playedAsCase(client: Client, test: FerryTest, address: string): Promise<string> {
  const from = Date.now();
  let failure: Error | undefined;
  const driver = await devtoolsDriver(client);
  const expect = (label: string, actual: unknown, expected: unknown): Promise<void> =>
    actual === expected
      ? Promise.resolve()
      : Promise.reject(new Error(`${label}: expected "${String(expected)}" but got "${String(actual)}"`));
  try {
    await test.run({ driver, site: address, expect });
  } catch (error) {
    failure = error as Error;
    await driver.screenshot().catch(() => undefined);
  }
  await driver.quit();
  const about = failure ? `<failure message="${xml(failure.message)}">${xml(stackOf(failure))}</failure>` : '';
  return `<testcase classname="${test.suite}" name="${test.title}" file="${test.file}" timestamp="${new Date(from).toISOString()}" time="${(Date.now() - from) / 1000}">${about}</testcase>`;
}
