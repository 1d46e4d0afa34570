import { engineNames, howToInstall } from './engine-names.ts';
import type { Place } from './place.ts';
import { engineNamed } from './recording/engine-asked.ts';

/** All places there are: the one door to browsers. */
export class Places {
  constructor(readonly all: readonly Place[]) {}

  named(name: string): Place | undefined {
    return this.all.find((place) => place.name === name);
  }

  /** Those of this machine, in the order in which they were looked for. */
  get local(): Place[] {
    return this.all.filter((place) => !place.remote);
  }

  /**
   * The place for a New Session command: the one named, else the first on this machine, or elsewhere, that one of its
   * alternatives' browser names asks for. One that names none goes to the first there is, whose driver then answers in
   * its own words.
   * @returns in words what is missing, where nothing fits
   */
  asked(capabilities: unknown, wish?: string): Place | string {
    if (wish !== undefined) return this.named(wish) ?? this.noSuch(wish);
    const { alwaysMatch, firstMatch } = (capabilities ?? {}) as { alwaysMatch?: unknown; firstMatch?: unknown };
    const entries = [alwaysMatch, ...(Array.isArray(firstMatch) ? (firstMatch as unknown[]) : [])];
    const names = entries
      .map((entry) => (entry as { browserName?: unknown } | undefined)?.browserName)
      .filter((name) => typeof name === 'string');
    for (const name of names) {
      const found =
        this.local.find((place) => place.answersTo(name)) ?? this.all.find((place) => place.answersTo(name));
      if (found) return found;
    }
    const engine = names.map(engineNamed).find((one) => one !== undefined);
    if (engine) return `${engine} and its driver are not installed on this machine; run: ${howToInstall[engine]}`;
    return this.local[0] ?? this.all[0] ?? `there is no browser on this machine; run: ${howToInstall.chromium}`;
  }

  /** Why a name stands for no place, and what would. */
  noSuch(name: string): string {
    const known = engineNames.find((one) => one === name);
    if (known) return `there is no ${known} to drive on this machine; run: ${howToInstall[known]}`;
    const there = this.all.map((place) => place.name);
    return `there is no place “${name}”; there ${there.length === 1 ? 'is' : 'are'} ${there.join(', ') || 'none'}`;
  }

  async close(): Promise<void> {
    await Promise.all(this.all.map((place) => place.close()));
  }
}
