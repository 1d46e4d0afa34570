/** The commands of the WebDriver specification, section "Endpoints", by the names that evidence knows them by. */
export const wireCommands = [
  'delete session',
  'get timeouts',
  'set timeouts',
  'navigate to',
  'get current url',
  'back',
  'forward',
  'refresh',
  'get title',
  'get window handle',
  'close window',
  'switch to window',
  'get window handles',
  'new window',
  'switch to frame',
  'switch to parent frame',
  'get window rect',
  'set window rect',
  'maximize window',
  'minimize window',
  'fullscreen window',
  'get active element',
  'find element',
  'find elements',
  'find element from element',
  'find elements from element',
  'get shadow root',
  'find element from shadow root',
  'find elements from shadow root',
  'is selected',
  'is enabled',
  'is displayed',
  'get attribute',
  'get property',
  'get css value',
  'get text',
  'get tag name',
  'get element rect',
  'get role',
  'get label',
  'element click',
  'element clear',
  'element send keys',
  'get page source',
  'execute script',
  'execute async script',
  'get cookies',
  'get cookie',
  'add cookie',
  'delete cookie',
  'delete cookies',
  'perform actions',
  'release actions',
  'dismiss alert',
  'accept alert',
  'get alert text',
  'send alert text',
  'take screenshot',
  'take element screenshot',
  'print page',
] as const;

/** What stands for a command of a vendor's own, and for one told by a reporter in words of its own. */
export const otherCommand = 'another command';

/** What evidence calls a command: one of the specification's, or what is inferred from several. */
export type CommandName = (typeof wireCommands)[number] | typeof otherCommand | 'wait' | 'implicit wait' | 'pause';

const all: ReadonlySet<string> = new Set<string>([...wireCommands, otherCommand, 'wait', 'implicit wait', 'pause']);

/** The name itself where it is one, else the one that stands for all others. */
export const commandNamed = (name: unknown): CommandName =>
  typeof name === 'string' && all.has(name) ? (name as CommandName) : otherCommand;
