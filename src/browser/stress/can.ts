import { kindsOfStressor, words, type Stressor } from '../../core/trials/stressor.ts';
import type { Abilities } from '../abilities.ts';

/** What a place lacks for stressors, in a sentence; nothing where it can do them all. */
export function cannotStress(name: string, abilities: Abilities, stressors: readonly Stressor[]): string | undefined {
  for (const one of stressors) {
    const { needs, about } = kindsOfStressor[one.kind];
    if (needs !== 'nothing' && !(abilities.socket && abilities.contexts))
      return `${name} cannot play “${words(one)}”: it has no socket through which one ${about}`;
    if (needs === 'holds' && !abilities.holds)
      return `${name} cannot play “${words(one)}”: it does not let requests be held back`;
    if (needs === 'debugging' && !abilities.debugging)
      return `${name} cannot play “${words(one)}”: its browser has no command of its own that ${about}`;
  }
  return undefined;
}
