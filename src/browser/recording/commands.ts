import { otherCommand, type CommandName } from '../../core/evidence/command-names.ts';
import type { StepAction } from '../../core/evidence/event.ts';

/** One command of the W3C WebDriver protocol: its method and path, and what it is to a reader. */
export interface Command {
  method: string;
  /** Path after `/session/{id}`, with `{element}`-like parts. */
  path: string;
  name: CommandName;
  action: StepAction;
  /** What a reading command reads. */
  subject?: string;
}

const command = (method: string, path: string, name: CommandName, action: StepAction, subject?: string): Command => ({
  method,
  path,
  name,
  action,
  ...(subject ? { subject } : {}),
});

/** The command table of the WebDriver specification, section "Endpoints". */
const table: readonly Command[] = [
  command('DELETE', '', 'delete session', 'other'),
  command('GET', '/timeouts', 'get timeouts', 'settings'),
  command('POST', '/timeouts', 'set timeouts', 'settings'),
  command('POST', '/url', 'navigate to', 'open'),
  command('GET', '/url', 'get current url', 'read', 'address'),
  command('POST', '/back', 'back', 'navigate'),
  command('POST', '/forward', 'forward', 'navigate'),
  command('POST', '/refresh', 'refresh', 'navigate'),
  command('GET', '/title', 'get title', 'read', 'title'),
  command('GET', '/window', 'get window handle', 'other'),
  command('DELETE', '/window', 'close window', 'window'),
  command('POST', '/window', 'switch to window', 'window'),
  command('GET', '/window/handles', 'get window handles', 'other'),
  command('POST', '/window/new', 'new window', 'window'),
  command('POST', '/frame', 'switch to frame', 'frame'),
  command('POST', '/frame/parent', 'switch to parent frame', 'frame'),
  command('GET', '/window/rect', 'get window rect', 'other'),
  command('POST', '/window/rect', 'set window rect', 'window'),
  command('POST', '/window/maximize', 'maximize window', 'window'),
  command('POST', '/window/minimize', 'minimize window', 'window'),
  command('POST', '/window/fullscreen', 'fullscreen window', 'window'),
  command('GET', '/element/active', 'get active element', 'find'),
  command('POST', '/element', 'find element', 'find'),
  command('POST', '/elements', 'find elements', 'find'),
  command('POST', '/element/{element}/element', 'find element from element', 'find'),
  command('POST', '/element/{element}/elements', 'find elements from element', 'find'),
  command('GET', '/element/{element}/shadow', 'get shadow root', 'find'),
  command('POST', '/shadow/{element}/element', 'find element from shadow root', 'find'),
  command('POST', '/shadow/{element}/elements', 'find elements from shadow root', 'find'),
  command('GET', '/element/{element}/selected', 'is selected', 'read', 'selected'),
  command('GET', '/element/{element}/enabled', 'is enabled', 'read', 'enabled'),
  command('GET', '/element/{element}/displayed', 'is displayed', 'read', 'displayed'),
  command('GET', '/element/{element}/attribute/{key}', 'get attribute', 'read', 'attribute'),
  command('GET', '/element/{element}/property/{key}', 'get property', 'read', 'property'),
  command('GET', '/element/{element}/css/{key}', 'get css value', 'read', 'css'),
  command('GET', '/element/{element}/text', 'get text', 'read', 'text'),
  command('GET', '/element/{element}/name', 'get tag name', 'read', 'tag'),
  command('GET', '/element/{element}/rect', 'get element rect', 'read', 'rect'),
  command('GET', '/element/{element}/computedrole', 'get role', 'read', 'role'),
  command('GET', '/element/{element}/computedlabel', 'get label', 'read', 'label'),
  command('POST', '/element/{element}/click', 'element click', 'press'),
  command('POST', '/element/{element}/clear', 'element clear', 'clear'),
  command('POST', '/element/{element}/value', 'element send keys', 'type'),
  command('GET', '/source', 'get page source', 'read', 'source'),
  command('POST', '/execute/sync', 'execute script', 'script'),
  command('POST', '/execute/async', 'execute async script', 'script'),
  command('GET', '/cookie', 'get cookies', 'cookie'),
  command('GET', '/cookie/{key}', 'get cookie', 'cookie'),
  command('POST', '/cookie', 'add cookie', 'cookie'),
  command('DELETE', '/cookie/{key}', 'delete cookie', 'cookie'),
  command('DELETE', '/cookie', 'delete cookies', 'cookie'),
  command('POST', '/actions', 'perform actions', 'keys'),
  command('DELETE', '/actions', 'release actions', 'other'),
  command('POST', '/alert/dismiss', 'dismiss alert', 'dialog'),
  command('POST', '/alert/accept', 'accept alert', 'dialog'),
  command('GET', '/alert/text', 'get alert text', 'dialog'),
  command('POST', '/alert/text', 'send alert text', 'dialog'),
  command('GET', '/screenshot', 'take screenshot', 'picture'),
  command('GET', '/element/{element}/screenshot', 'take element screenshot', 'picture'),
  command('POST', '/print', 'print page', 'picture'),
];

const compiled = table.map((entry) => ({
  entry,
  pattern: new RegExp(`^${entry.path.replaceAll(/\{(\w+)\}/g, '(?<$1>[^/]+)')}$`),
}));

export interface CommandCall {
  command: Command;
  element?: string;
  key?: string;
}

/**
 * Recognises a command by its method and path.
 * @param path what follows `/session/{id}`, without a query
 */
export function readCommand(method: string, path: string): CommandCall {
  for (const { entry, pattern } of compiled) {
    if (entry.method !== method) continue;
    const found = pattern.exec(path);
    if (!found) continue;
    return {
      command: entry,
      ...(found.groups?.element ? { element: found.groups.element } : {}),
      ...(found.groups?.key ? { key: decodeSafely(found.groups.key) } : {}),
    };
  }
  return { command: command(method, path, otherCommand, 'other', `${method} ${path}`) };
}

function decodeSafely(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

export { elementKey } from '../../core/evidence/action-words.ts';
