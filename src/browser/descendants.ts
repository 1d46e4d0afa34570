import { readFileSync, readdirSync } from 'node:fs';

/** How often it is looked what a program has started, ms. One that starts and leaves its parent in between is not seen. */
const lookEveryMs = 50;
/** More than this are not followed. */
const most = 5000;

const read = (path: string): string => {
  try {
    return readFileSync(path, 'latin1');
  } catch {
    // it ended meanwhile
    return '';
  }
};

/** When a process began, in ticks: another that has its number later began later. */
const begunAt = (pid: number): string | undefined => /\) (?:\S+ ){19}(\d+)/.exec(read(`/proc/${pid}/stat`))?.[1];

/** Ids of what a process has started and not given away. */
function childrenOf(pid: number): number[] {
  let threads: string[];
  try {
    threads = readdirSync(`/proc/${pid}/task`);
  } catch {
    return [];
  }
  return threads.flatMap((thread) =>
    read(`/proc/${pid}/task/${thread}/children`).split(' ').filter(Boolean).map(Number),
  );
}

/**
 * Follows what a program starts, and what that starts, for as long as it runs: whatever bears no mark of ours, because it was
 * given another environment, is known by its descent.
 */
export function followed(pid: number | undefined): { end(): void } {
  const known = new Map<number, string>();
  const look = (): void => {
    const open = [...known.keys(), ...(pid === undefined ? [] : [pid])];
    while (open.length && known.size < most) {
      for (const child of childrenOf(open.pop()!)) {
        if (known.has(child)) continue;
        const at = begunAt(child);
        if (at === undefined) continue;
        known.set(child, at);
        open.push(child);
      }
    }
    for (const [child, at] of known) if (begunAt(child) !== at) known.delete(child);
  };
  look();
  const timer = setInterval(look, lookEveryMs);
  timer.unref();
  let over = false;
  return {
    end: () => {
      if (over) return;
      over = true;
      clearInterval(timer);
      look();
      for (const [child, at] of known) {
        if (begunAt(child) !== at) continue;
        try {
          process.kill(child, 'SIGKILL');
        } catch {
          // it ended by itself
        }
      }
    },
  };
}
