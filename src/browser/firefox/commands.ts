import type { CommandName } from '../../core/evidence/command-names.ts';
import { ClassicError, classicError } from './classic-error.ts';
import { cookieCommands } from './cookies.ts';
import { elementCommands } from './elements.ts';
import { pageCommands } from './pages.ts';
import { promptCommands } from './prompts.ts';
import { scriptCommands } from './scripts.ts';
import type { Asked, Commands } from './command.ts';
import type { ClassicSession } from './session.ts';
import { windowCommands } from './windows.ts';

const all: Commands = {
  ...pageCommands,
  ...windowCommands,
  ...elementCommands,
  ...scriptCommands,
  ...cookieCommands,
  ...promptCommands,
};

/** Commands that an open dialog does not stand in the way of. */
const besideDialogs: ReadonlySet<CommandName> = new Set<CommandName>([
  'get timeouts',
  'set timeouts',
  'get window handle',
  'get window handles',
  'switch to window',
  'accept alert',
  'dismiss alert',
  'get alert text',
  'send alert text',
]);

/** Does a command of the classic protocol. @throws ClassicError with its own code and words */
export async function perform(session: ClassicSession, name: CommandName, asked: Asked): Promise<unknown> {
  const command = all[name];
  if (!command) throw new ClassicError('unknown command', `${name} is no command that is known here`);
  try {
    if (!besideDialogs.has(name)) await session.clearPrompt();
    return await command(session, asked);
  } catch (error) {
    throw classicError(error);
  }
}
