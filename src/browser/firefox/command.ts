import type { CommandName } from '../../core/evidence/command-names.ts';
import type { ClassicSession } from './session.ts';

/** One command as it came. */
export interface Asked {
  body: Record<string, unknown>;
  element: string;
  key: string;
}

/** Does one command; gives its value. */
export type Command = (session: ClassicSession, asked: Asked) => Promise<unknown>;
export type Commands = Partial<Record<CommandName, Command>>;
