import type { Commands } from './command.ts';
import { elementKey } from '../recording/commands.ts';
import { ClassicError, invalid } from './classic-error.ts';
import type { ClassicSession } from './session.ts';

interface ClientWindow {
  clientWindow: string;
  state: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

async function clientWindow(session: ClassicSession): Promise<ClientWindow> {
  const { clientWindow: id } = await session.top();
  const { clientWindows } = await session.send<{ clientWindows: ClientWindow[] }>('browser.getClientWindows', {});
  const found = clientWindows.find((one) => one.clientWindow === id) ?? clientWindows[0];
  if (!found) throw new ClassicError('no such window', 'this browser has no window');
  return found;
}

const rectOf = ({ x, y, width, height }: ClientWindow): object => ({ x, y, width, height });

const toState =
  (state: string): Commands['maximize window'] =>
  async (session) => {
    const { clientWindow: id } = await clientWindow(session);
    return rectOf(await session.send<ClientWindow>('browser.setClientWindowState', { clientWindow: id, state }));
  };

const isNumber = (value: unknown): boolean => typeof value === 'number' && Number.isFinite(value);

async function intoFrame(session: ClassicSession, id: unknown): Promise<string> {
  const frameOf = async (declaration: string, argument: unknown): Promise<string | undefined> => {
    const told = await session.inWorld(declaration, [argument]);
    return told.type === 'window' ? (told.value as { context: string }).context : undefined;
  };
  if (typeof id === 'number') {
    if (!Number.isInteger(id) || id < 0 || id > 65_535) throw invalid('"id" must be a number from 0 to 65535');
    const found = await frameOf('(n) => window.frames[n]', { type: 'number', value: id });
    if (!found) throw new ClassicError('no such frame', `there is no frame number ${id} here`);
    return found;
  }
  const element = typeof id === 'object' && id !== null ? (id as Record<string, unknown>)[elementKey] : undefined;
  if (typeof element !== 'string') throw invalid('"id" must be null, a number or an element');
  await session.askElement('inView', element);
  const found = await frameOf('(el) => el.contentWindow', session.element(element));
  if (!found) throw new ClassicError('no such frame', 'this element is no frame');
  return found;
}

/** Windows and frames: which are there, which is looked at, how large. */
export const windowCommands: Commands = {
  'get window handle': async (session) => (await session.top()).context,
  'get window handles': async (session) => (await session.tree()).map(({ context }) => context),
  'close window': async (session) => {
    await session.top();
    const others = (await session.tree())
      .filter(({ context }) => context !== session.window)
      .map(({ context }) => context);
    if (others.length) await session.send('browsingContext.close', { context: session.window });
    return others;
  },
  'switch to window': async (session, { body }) => {
    const { handle } = body;
    if (typeof handle !== 'string') throw invalid('"handle" must be a text');
    if (!(await session.tree()).some(({ context }) => context === handle))
      throw new ClassicError('no such window', `there is no window ${handle}`);
    session.window = handle;
    session.frame = handle;
    await session.send('browsingContext.activate', { context: handle }).catch(() => undefined);
    return null;
  },
  'new window': async (session, { body }) => {
    const { context: opener } = await session.top();
    const type = body.type === 'window' ? 'window' : 'tab';
    const { context } = await session.send<{ context: string }>('browsingContext.create', {
      type,
      ...(type === 'tab' ? { referenceContext: opener, background: true } : {}),
    });
    return { handle: context, type };
  },
  'switch to frame': async (session, { body }) => {
    await session.top();
    if (body.id === null) session.frame = session.window;
    else if (body.id === undefined) throw invalid('"id" is missing');
    else session.frame = await intoFrame(session, body.id);
    return null;
  },
  'switch to parent frame': async (session) => {
    await session.top();
    if (session.frame !== session.window) session.frame = session.parentOf(session.frame) ?? session.window;
    return null;
  },
  'get window rect': async (session) => rectOf(await clientWindow(session)),
  'set window rect': async (session, { body }) => {
    const { x, y, width, height } = body;
    for (const one of [x, y, width, height])
      if (one !== undefined && one !== null && !isNumber(one)) throw invalid('x, y, width and height must be numbers');
    for (const one of [width, height])
      if (typeof one === 'number' && (one < 0 || one > 2 ** 31 - 1))
        throw invalid('width and height must not be negative');
    const { clientWindow: id } = await clientWindow(session);
    const given = Object.entries({ x, y, width, height }).filter(([, value]) => typeof value === 'number');
    if (!given.length) return rectOf(await clientWindow(session));
    const at = given.map(([key, value]) => [key, Math.round(value as number)]);
    return rectOf(
      await session.send<ClientWindow>('browser.setClientWindowState', {
        clientWindow: id,
        state: 'normal',
        ...Object.fromEntries(at),
      }),
    );
  },
  'maximize window': toState('maximized'),
  'minimize window': toState('minimized'),
  'fullscreen window': toState('fullscreen'),
};
