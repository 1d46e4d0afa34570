/** What an engine or a place can tell and do. Everything that would ask for a name asks for one of these. */
export interface Abilities {
  /** Speaks BiDi: pages, requests, console lines, dialogs and every locator are told as they happen. */
  socket: boolean;
  /** Has the browser's own debugging events and frames besides, as Chromium's drivers hand them through. */
  debugging: boolean;
  /** Hands out the bodies of requests and answers. */
  bodies: boolean;
  /** Lets requests be held back and failed while a command waits for them. */
  holds: boolean;
  /** Has isolated contexts, so that many trials share one browser. */
  contexts: boolean;
  /** Draws on a screen of its own, from which pictures are taken. */
  screen: boolean;
  /** Can be reached on this machine, so that pictures come straight from the browser. */
  local: boolean;
}

export const abilitiesOf = {
  chromium: { socket: true, debugging: true, bodies: true, holds: true, contexts: true, screen: false, local: true },
  firefox: { socket: true, debugging: false, bodies: true, holds: true, contexts: true, screen: false, local: true },
  webkit: { socket: false, debugging: false, bodies: false, holds: false, contexts: false, screen: true, local: true },
} as const satisfies Record<string, Abilities>;

/** What cannot be had there, each in a sentence; nothing where all can. */
export function cannot(abilities: Abilities): string[] {
  const { socket, debugging, bodies, holds, contexts, screen, local } = abilities;
  const out: string[] = [];
  if (!socket)
    out.push(
      screen
        ? 'It tells only commands and pictures: no requests, no console lines, no lifelines of elements.'
        : 'It tells only commands: no requests, no console lines, no pictures, no lifelines of elements.',
    );
  else if (!debugging || !local)
    out.push(
      local
        ? 'Pictures are taken less often, and web sockets are told by their handshake only.'
        : 'Pictures are asked for through its socket, less often than on this machine.',
    );
  if (socket && !bodies) out.push('It hands out no bodies of requests and answers.');
  if (socket && !holds)
    out.push('It does not let requests be held back: trials there cannot be put under late or failed answers.');
  if (!contexts) out.push('It has no isolated contexts: every trial starts a browser session of its own.');
  return out;
}
