import type { Commands } from './command.ts';
import { ClassicError, invalid } from './classic-error.ts';
import type { ClassicSession } from './session.ts';

const wait = { none: 'none', eager: 'interactive', normal: 'complete' } as const;

/** Lets a navigation take as long as the session allows, or until a dialog stands open. */
async function navigated(session: ClassicSession, work: Promise<unknown>): Promise<null> {
  let timer: NodeJS.Timeout | undefined;
  const { pageLoad } = session.timeouts;
  const late = new Promise<never>((_, fail) => {
    timer = setTimeout(() => fail(new ClassicError('timeout', `Navigation timed out after ${pageLoad} ms`)), pageLoad);
  });
  try {
    await session.orPrompt(Promise.race([work, late]));
  } finally {
    clearTimeout(timer);
  }
  return null;
}

async function through(session: ClassicSession, delta: number): Promise<null> {
  await session.top();
  await session.send('browsingContext.traverseHistory', { context: session.window, delta }).catch((error: Error) => {
    // At the end of its history a page stays where it is.
    if (!/no such history entry/.test(error.message)) throw error;
  });
  await session.begins();
  await session.loaded(performance.now() + session.timeouts.pageLoad);
  return null;
}

const isLimit = (value: unknown): value is number =>
  typeof value === 'number' && Number.isSafeInteger(value) && value >= 0;

/** Reads limits of a body or a capability. @throws ClassicError for one that is none */
export function readTimeouts(session: ClassicSession, body: Record<string, unknown>): void {
  const next = { ...session.timeouts };
  for (const [key, value] of Object.entries(body)) {
    if (key === 'script' && (value === null || isLimit(value))) next.script = value;
    else if ((key === 'implicit' || key === 'pageLoad') && isLimit(value)) next[key] = value;
    else if (key === 'script' || key === 'implicit' || key === 'pageLoad')
      throw invalid(`"${key}" must be a whole number of milliseconds`);
  }
  session.timeouts = next;
}

/** Pages as a whole: opened, gone back to, read; and the limits of a session. */
export const pageCommands: Commands = {
  'get timeouts': (session) => Promise.resolve({ ...session.timeouts }),
  'set timeouts': (session, { body }) => {
    readTimeouts(session, body);
    return Promise.resolve(null);
  },
  'navigate to': async (session, { body }) => {
    const { url } = body;
    if (typeof url !== 'string' || !URL.canParse(url)) throw invalid('"url" must be an address with its scheme');
    await session.top();
    session.frame = session.window;
    const how = wait[session.pageLoadStrategy];
    return navigated(
      session,
      session.send('browsingContext.navigate', { context: session.window, url, wait: how }),
    ).catch((error: Error) => {
      if (/NS_ERROR|navigation|aborted|error page/i.test(error.message) && !(error instanceof ClassicError))
        throw new ClassicError('unknown error', `Reached error page: ${error.message}`);
      throw error;
    });
  },
  'get current url': async (session) => (await session.top()).url,
  back: (session) => through(session, -1),
  forward: (session) => through(session, 1),
  refresh: async (session) => {
    await session.top();
    session.frame = session.window;
    return navigated(
      session,
      session.send('browsingContext.reload', { context: session.window, wait: wait[session.pageLoadStrategy] }),
    );
  },
  'get title': async (session) => {
    await session.top();
    const { result } = await session.send<{ result: { value?: unknown } }>('script.evaluate', {
      expression: 'document.title',
      target: { context: session.window, sandbox: 'classic' },
      awaitPromise: false,
    });
    return result.value ?? '';
  },
  'get page source': async (session) => {
    const told = await session.inWorld(
      `() => document.documentElement?.outerHTML || new XMLSerializer().serializeToString(document)`,
      [],
    );
    return told.value;
  },
  'take screenshot': async (session) => {
    const { data } = await session.send<{ data: string }>('browsingContext.captureScreenshot', {
      context: (await session.top()).context,
    });
    return data;
  },
  'take element screenshot': async (session, { element }) => {
    await session.askElement('inView', element);
    await session.inWorld(`(el) => el.scrollIntoView({ behavior: 'instant', block: 'end', inline: 'nearest' })`, [
      { sharedId: element },
    ]);
    const { data } = await session.send<{ data: string }>('browsingContext.captureScreenshot', {
      context: session.frame,
      clip: { type: 'element', element: { sharedId: element } },
    });
    return data;
  },
  'print page': async (session, { body }) => {
    const { data } = await session.send<{ data: string }>('browsingContext.print', {
      ...body,
      context: (await session.top()).context,
    });
    return data;
  },
};
