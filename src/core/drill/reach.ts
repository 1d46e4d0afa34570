import type { Drill, Statement } from './drill.ts';
import { waysTyped } from './files-typed.ts';

/** What a drill reaches beyond the pages it is played on. */
export interface DrillReach {
  /** Hosts it opens, as far as its text names them. */
  hosts: string[];
  /** Names of secrets it types. */
  secrets: string[];
  /** What it types that may be the path of a file. */
  files: string[];
  /** How many scripts of its own it runs in pages. */
  scripts: number;
}

const hostOf = (address: string): string | undefined => {
  try {
    return new URL(address).host || undefined;
  } catch {
    return undefined;
  }
};

export function reachOf(drill: Drill): DrillReach {
  const hosts = new Set<string>();
  const secrets = new Set<string>();
  let scripts = 0;
  const look = (one: Statement): void => {
    if (one.do === 'when') look(one.then);
    else if (one.do === 'open' && typeof one.address === 'string') {
      const host = hostOf(one.address);
      if (host) hosts.add(host);
    } else if (one.do === 'type secret') secrets.add(one.secret);
    else if (one.do === 'script' || one.do === 'remember script') scripts++;
  };
  for (const line of drill.lines) look(line);
  return { hosts: [...hosts], secrets: [...secrets], files: waysTyped(drill), scripts };
}

/** What a person has looked at and allowed. */
export type Confirmed = Pick<DrillReach, 'hosts' | 'secrets' | 'files'>;

/** Whether a drill may type what it types: whatever it needs was looked at. One that types neither secrets nor files needs nothing. */
export function isConfirmed({ hosts, secrets, files }: DrillReach, confirmed: Confirmed | null): boolean {
  if (secrets.length === 0 && files.length === 0) return true;
  const has = (known: readonly string[] = [], asked: readonly string[]): boolean =>
    asked.every((one) => known.includes(one));
  return (
    confirmed !== null && has(confirmed.hosts, hosts) && has(confirmed.secrets, secrets) && has(confirmed.files, files)
  );
}
