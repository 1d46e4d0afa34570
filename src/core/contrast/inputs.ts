import { quote, said } from '../evidence/labels.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Feature, Groups } from './feature.ts';
import type { Slot } from './line-up.ts';

/** Characters that forms, addresses and databases are apt to take for something else. */
export const oddCharacters = /['"`+&<>%\\;#?/|{}^~]|[^\u0000-\u024f\u1e00-\u1eff\u2010-\u2027]/gu;
/** Most characters told of one place. */
const mostTold = 4;

/**
 * What parts data that is made up anew for every attempt, whatever else it says: an odd character in it, how
 * large a number, how long a text is.
 */
export function inputs({ all, failing }: Groups, { label, members }: Slot, slot: number): Feature[] {
  const steps = all.map((one, who) => (members[who]! >= 0 ? one.steps[members[who]!]! : undefined));
  const given = steps.map((step) =>
    step?.action === 'type' && !step.input?.includes(maskMark) ? step.input : undefined,
  );
  const known = given.filter((text) => text !== undefined);
  // What is the same in all, or was given once each, is told by itself.
  if (new Set(known).size < 2) return [];
  const shown = steps.map((step) => (step ? { event: step.events[0]!, at: step.at } : null));
  const feature = (values: Feature['values'], sentence: string): Feature => ({
    kind: 'input',
    subject: label,
    slot,
    values,
    shown,
    say: (direction) => (direction === 'lacks' ? `not: ${sentence}` : sentence),
  });
  const odd = new Set(given.slice(0, failing).flatMap((text) => text?.match(oddCharacters) ?? []));
  const out = [...odd].slice(0, mostTold).map((character) =>
    feature(
      given.map((text) => (text === undefined ? null : text.includes(character))),
      `${said(label)} was given a text with ${quote(character)}`,
    ),
  );
  const numbers = given.map((text) => (text === undefined || text.trim() === '' ? null : Number(text)));
  const numeric = known.every((text) => text.trim() !== '' && Number.isFinite(Number(text)));
  if (!numeric) return out;
  const others = numbers.slice(failing).filter((number) => number !== null);
  if (others.length === 0) return out;
  const [low, high] = [Math.min(...others), Math.max(...others)];
  out.push(
    feature(
      numbers.map((number) => (number === null ? null : number > high || number < low)),
      `${said(label)} was given a number outside of ${low} to ${high}`,
    ),
  );
  return out;
}
