import { readyIn, type Ready } from './spool.ts';

/**
 * Delivers what waits in a spool. The token goes to the server it was made for and to no other: anybody may write into a
 * spool where something is to go.
 * @returns how many were taken in, and why the others were not
 */
export async function deliver(
  spool: string,
  options: { token?: string | undefined; tokenFor?: string; limitMs?: number; to?: string } = {},
): Promise<{ delivered: number; left: { id: string; to: string; why: string }[] }> {
  const until = Date.now() + (options.limitMs ?? Infinity);
  const left: { id: string; to: string; why: string }[] = [];
  let delivered = 0;
  // A server that does not answer is not asked again for each of them.
  const silent = new Map<string, string>();
  for (const one of readyIn(spool)) {
    const to = options.to ?? one.to;
    const known = silent.get(to);
    const why =
      known ??
      (Date.now() > until
        ? 'there was no time left'
        : await sent(one, to, to === options.tokenFor ? options.token : undefined, until - Date.now()));
    if (why === undefined) delivered++;
    else {
      left.push({ id: one.id, to, why });
      if (why.startsWith(unreachable)) silent.set(to, why);
    }
  }
  // A second look clears away the folders of browsers that are all delivered.
  if (delivered) readyIn(spool);
  return { delivered, left };
}

const unreachable = 'no Iskel answers at ';

/** Sends one attempt. @returns why it was not taken in; nothing when it was, and it is no longer spooled */
async function sent(one: Ready, to: string, token: string | undefined, limitMs: number): Promise<string | undefined> {
  const form = new FormData();
  form.append('files', new Blob([one.pack() as Uint8Array<ArrayBuffer>]), `${one.id}.iskel.zip`);
  const signal = Number.isFinite(limitMs) ? AbortSignal.timeout(Math.max(1, limitMs)) : undefined;
  try {
    const answer = await fetch(`${to}/api/intake`, {
      method: 'POST',
      body: form,
      ...(token ? { headers: { authorization: `Bearer ${token}` } } : {}),
      ...(signal ? { signal } : {}),
    });
    const told = (await answer.json().catch(() => ({}))) as {
      problems?: { message: string }[];
      error?: { message: string };
    };
    // What it has already, from a delivery that was cut short, it counts as none.
    if (answer.ok && !told.problems?.length) {
      one.remove();
      return undefined;
    }
    return told.error?.message ?? told.problems?.[0]?.message ?? `status ${answer.status}`;
  } catch (error) {
    return `${unreachable}${to}: ${(error as Error).message}`;
  }
}
