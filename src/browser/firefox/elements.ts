import { access } from 'node:fs/promises';
import { allReleased, isModifier } from '../../core/evidence/keys.ts';
import { elementKey } from '../recording/commands.ts';
import type { Asked, Command, Commands } from './command.ts';
import { ClassicError, invalid } from './classic-error.ts';
import { staleElement, type ClassicSession } from './session.ts';
import { shadowKey, toClassic, type RemoteValue } from './values.ts';

const strategies: ReadonlySet<unknown> = new Set([
  'css selector',
  'link text',
  'partial link text',
  'tag name',
  'xpath',
]);

/** What a find asks for, and in what. */
function question({ body }: Asked): unknown[] {
  const { using, value } = body;
  if (!strategies.has(using))
    throw invalid('"using" must be one of css selector, link text, partial link text, tag name, xpath');
  if (typeof value !== 'string') throw invalid('"value" must be a text');
  return [
    { type: 'string', value: using },
    { type: 'string', value },
  ];
}

const many =
  (root: 'document' | 'element' | 'shadow root'): ((session: ClassicSession, asked: Asked) => Promise<RemoteValue[]>) =>
  async (session, asked) => {
    const args = question(asked);
    await session.top();
    if (root !== 'document') {
      session.take(asked.element, root);
      const connected = await session.inWorld('(node) => classic.here(node)', [{ sharedId: asked.element }]);
      if (connected.value !== true)
        throw root === 'element'
          ? staleElement()
          : new ClassicError('detached shadow root', 'the shadow root is no longer part of the document');
      args.push({ sharedId: asked.element });
    }
    return session.implicitly(
      () => session.askNodes('find', ...args),
      (nodes) => nodes.length > 0,
    );
  };

const findOne =
  (root: 'document' | 'element' | 'shadow root'): Command =>
  async (session, asked) => {
    const [first] = await many(root)(session, asked);
    if (!first) throw new ClassicError('no such element', `Unable to locate element: ${String(asked.body.value)}`);
    return elementOf(session, first);
  };

const findAll =
  (root: 'document' | 'element' | 'shadow root'): Command =>
  async (session, asked) =>
    (await many(root)(session, asked)).map((node) => elementOf(session, node));

function elementOf(session: ClassicSession, node: RemoteValue): unknown {
  if (node.type !== 'node' || (node.value as { nodeType?: number })?.nodeType !== 1)
    throw new ClassicError('invalid selector', 'the locator finds something that is no element');
  return toClassic(node, session);
}

const reads =
  (name: string, ...keys: 'key'[]): Command =>
  (session, asked) =>
    session.askElement(name, asked.element, ...keys.map((key) => ({ type: 'string', value: asked[key] })));

interface Place {
  file?: boolean;
  option?: boolean;
  hidden?: boolean;
  covered?: string;
  who?: string;
  x?: number;
  y?: number;
}

async function press(session: ClassicSession, { element }: Asked): Promise<null> {
  await session.top();
  const place = await session.implicitly(
    () => session.askElement<Place>('press', element),
    ({ hidden }) => !hidden,
  );
  if (place.file) throw invalid('a field for files is not pressed; its files are typed into it');
  if (place.hidden)
    throw new ClassicError('element not interactable', `Element ${place.who} could not be scrolled into view`);
  if (place.covered)
    throw new ClassicError(
      'element click intercepted',
      `Element ${place.who} is not clickable at point (${place.x},${place.y}) because another element ${place.covered} obscures it`,
    );
  if (place.option) {
    await session.orPrompt(session.askElement('choose', element));
  } else {
    const pressing = session.send('input.performActions', {
      context: session.frame,
      actions: [
        {
          type: 'pointer',
          id: 'press',
          parameters: { pointerType: 'mouse' },
          actions: [
            { type: 'pointerMove', x: 0, y: 0, origin: { type: 'element', element: { sharedId: element } } },
            { type: 'pointerDown', button: 0 },
            { type: 'pointerUp', button: 0 },
          ],
        },
      ],
    });
    await session.orPrompt(
      pressing.catch((error: unknown) => {
        throw session.gone(error);
      }),
    );
  }
  await session.settle();
  return null;
}

/** Keys as the specification sends them: a modifier stays down until it is named again, or all are let go of. */
function strokes(text: string): object[] {
  const actions: object[] = [];
  const held = new Set<string>();
  const up = (value: string): void => void actions.push({ type: 'keyUp', value });
  for (const value of text) {
    if (value === allReleased) {
      for (const one of held) up(one);
      held.clear();
    } else if (isModifier(value)) {
      if (held.delete(value)) up(value);
      else {
        held.add(value);
        actions.push({ type: 'keyDown', value });
      }
    } else {
      actions.push({ type: 'keyDown', value });
      up(value);
    }
  }
  for (const one of held) up(one);
  return actions;
}

async function type(session: ClassicSession, { element, body }: Asked): Promise<null> {
  const { text } = body;
  if (typeof text !== 'string') throw invalid('"text" must be a text');
  await session.top();
  const ready = await session.implicitly(
    () =>
      session.askElement<{ file?: boolean; multiple?: boolean; hidden?: boolean; done?: boolean; who?: string }>(
        'ready',
        element,
        {
          type: 'string',
          value: text,
        },
      ),
    ({ hidden }) => !hidden,
  );
  if (ready.hidden)
    throw new ClassicError('element not interactable', `Element ${ready.who} is not reachable by keyboard`);
  if (ready.file) {
    const files = text.split('\n').filter(Boolean);
    if (!files.length) throw invalid('no file was named');
    if (files.length > 1 && !ready.multiple) throw invalid('this field takes one file only');
    for (const file of files)
      await access(file).catch(() => {
        throw invalid(`File not found: ${file}`);
      });
    await session.send('input.setFiles', { context: session.frame, element: { sharedId: element }, files });
    return null;
  }
  if (ready.done || text === '') return null;
  const typing = session.send('input.performActions', {
    context: session.frame,
    actions: [{ type: 'key', id: 'typing', actions: strokes(text) }],
  });
  await session.orPrompt(
    typing.catch((error: unknown) => {
      throw session.gone(error);
    }),
  );
  await session.settle();
  return null;
}

async function clear(session: ClassicSession, { element }: Asked): Promise<null> {
  await session.top();
  const { state, hidden, who } = await session.askElement<{ state?: string; hidden?: boolean; who?: string }>(
    'clear',
    element,
  );
  if (state) throw new ClassicError('invalid element state', state);
  if (hidden) throw new ClassicError('element not interactable', `Element ${who} could not be scrolled into view`);
  return null;
}

/** Origins that are elements have another form in BiDi. */
function actionsFor(session: ClassicSession, told: unknown): unknown {
  if (!Array.isArray(told)) throw invalid('"actions" must be a list');
  return (told as unknown[]).map((source) => {
    const { actions, ...rest } = (source ?? {}) as { actions?: unknown };
    if (!Array.isArray(actions)) throw invalid('each source needs a list of “actions”');
    return {
      ...rest,
      actions: (actions as unknown[]).map((one) => {
        const action = (one ?? {}) as { type?: unknown; origin?: unknown };
        const id =
          typeof action.origin === 'object' && action.origin !== null
            ? (action.origin as Record<string, unknown>)[elementKey]
            : undefined;
        if (id === undefined) return action;
        if (typeof id !== 'string') throw invalid('an element is named by a text');
        return { ...action, origin: { type: 'element', element: session.element(id) } };
      }),
    };
  });
}

/** Elements: found, read, acted upon. */
export const elementCommands: Commands = {
  'find element': findOne('document'),
  'find elements': findAll('document'),
  'find element from element': findOne('element'),
  'find elements from element': findAll('element'),
  'find element from shadow root': findOne('shadow root'),
  'find elements from shadow root': findAll('shadow root'),
  'get shadow root': async (session, { element }) => {
    session.element(element);
    const told = await session.inWorld(
      '(el) => (classic.here(el) ? (el.shadowRoot ?? el.openOrClosedShadowRoot ?? null) : "stale")',
      [{ sharedId: element }],
    );
    if (told.value === 'stale') throw staleElement();
    if (told.type !== 'node' || !told.sharedId)
      throw new ClassicError('no such shadow root', 'this element has no shadow root');
    session.hand(told.sharedId);
    return { [shadowKey]: told.sharedId };
  },
  'get active element': async (session) => {
    await session.top();
    const told = await session.inWorld('() => document.activeElement', []);
    if (told.type !== 'node') throw new ClassicError('no such element', 'nothing has the focus');
    return toClassic(told, session);
  },
  'is selected': reads('selected'),
  'is enabled': reads('enabled'),
  'is displayed': reads('displayed'),
  'get attribute': reads('attribute', 'key'),
  'get property': async (session, { element, key }) => {
    session.element(element);
    const told = await session.send<{ type: string; result: RemoteValue; exceptionDetails?: { text: string } }>(
      'script.callFunction',
      {
        functionDeclaration:
          '(el, name) => { if (!el.isConnected || el.ownerDocument !== document) throw new Error("stale"); return el[name]; }',
        target: { context: session.frame },
        awaitPromise: false,
        arguments: [{ sharedId: element }, { type: 'string', value: key }],
        serializationOptions: { maxDomDepth: 0 },
      },
    );
    if (told.type === 'exception')
      throw /stale/.test(told.exceptionDetails?.text ?? '')
        ? staleElement()
        : new ClassicError('javascript error', told.exceptionDetails?.text ?? '');
    return toClassic(told.result, session);
  },
  'get css value': async (session, { element, key }) => {
    session.element(element);
    const told = await session.inWorld(
      '(el, name) => (classic.here(el) ? { css: getComputedStyle(el).getPropertyValue(name) } : null)',
      [{ sharedId: element }, { type: 'string', value: key }],
    );
    if (told.type === 'null') throw staleElement();
    return (told.value as [string, RemoteValue][])[0]![1].value;
  },
  'get text': reads('text'),
  'get tag name': async (session, { element }) => {
    session.element(element);
    const told = await session.inWorld('(el) => (classic.here(el) ? el.localName : null)', [{ sharedId: element }]);
    if (told.type === 'null') throw staleElement();
    return told.value;
  },
  'get element rect': reads('rect'),
  'get role': reads('role'),
  'get label': reads('label'),
  'element click': press,
  'element clear': clear,
  'element send keys': type,
  'perform actions': async (session, { body }) => {
    await session.top();
    const actions = actionsFor(session, body.actions);
    const doing = session.send('input.performActions', { context: session.frame, actions }).catch((error: unknown) => {
      throw session.gone(error);
    });
    await session.orPrompt(doing);
    await session.settle();
    return null;
  },
  'release actions': async (session) => {
    await session.top();
    await session.send('input.releaseActions', { context: session.frame });
    return null;
  },
};
