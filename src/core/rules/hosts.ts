/** Whose hosts are: what a test opens is the application's own, all else is outside, unless these say otherwise. */
export interface HostRules {
  own: string[];
  outside: string[];
}

/**
 * Whether a host is the application's own by the rules. An entry is a host with or without its port, or `*.` and the end
 * of its name; the longer entry goes before the shorter one, and of two alike the one that says outside.
 * @returns undefined where they say nothing of it
 */
export function ownBy({ own, outside }: HostRules, host: string): boolean | undefined {
  const name = host.toLowerCase();
  const bestOf = (list: readonly string[]): number =>
    Math.max(0, ...list.filter((entry) => fits(entry.toLowerCase(), name)).map((entry) => entry.length));
  const [mine, theirs] = [bestOf(own), bestOf(outside)];
  return mine === 0 && theirs === 0 ? undefined : mine > theirs;
}

function fits(entry: string, host: string): boolean {
  const plain = /:\d+$/.test(entry) ? host : host.replace(/:\d+$/, '');
  return entry.startsWith('*.') ? plain.endsWith(entry.slice(1)) && plain.length > entry.length - 1 : plain === entry;
}
