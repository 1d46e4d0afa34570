import { oddCharacters } from '../contrast/inputs.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import { quote, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { pageMessages } from './page-messages.ts';
import { ofPassing, sameInPassing, type Scene } from './scene.ts';

/** What was typed differs from attempt to attempt, and this one's lies outside of what passing attempts typed. */
export const oddInput: ClueKind = {
  code: 'odd-input',
  about: 'The typed data is made up anew for every attempt, and this one’s is unlike those of passing attempts.',
  find: (scene) => [
    ...madeUpChoices(scene),
    ...beyondLimit(scene),
    ...scene.sketch.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if (step.action !== 'type' || step.input === undefined || step.input.includes('«masked»')) return [];
      const others = sameInPassing(scene, step).flatMap((one) => one.input ?? []);
      const telling = others.length ? unlike(step.input, others) : charactersOf(step.input);
      if (!telling || (others.length > 0 && others.includes(step.input))) return [];
      const drawn = others.length === 0 && drawnAnew(scene, step);
      return [
        {
          at: step.at,
          summary: `${quote(shorten(step.input, 28))} was typed, ${telling}${others.length ? ` ${ofPassing(others.length, others.length)}` : ''}${drawn ? ', as did all that failed so, each typing another text' : ''}`,
          strength: others.length >= 3 ? 1 : others.length ? 0.8 : drawn ? 0.9 : 0.6,
          evidence: step.events,
        },
      ];
    }),
  ],
};

/** Others that failed so typed something else there, which holds one of the same odd characters: it is made up each time. */
function drawnAnew({ kin = [] }: Scene, step: SketchStep): boolean {
  const odd = step.input?.match(oddCharacters) ?? [];
  const others = kin.flatMap(({ steps }) => steps.find(({ sig }) => sig === step.sig)?.input ?? []);
  if (others.length === 0 || others.every((text) => text === step.input)) return false;
  return odd.some((character) => others.every((text) => text.includes(character)));
}

/** Fewer passing attempts do not show that a number is drawn anew each time. */
const leastDrawn = 2;

/** What was chosen rather than typed: a check that held expected a number beyond those of passing attempts, which differ. */
function madeUpChoices({ sketch, passing }: Scene): Omit<Clue, 'code'>[] {
  return sketch.checks.flatMap((check) => {
    const mine = numberIn(check.expected);
    if (!check.ok || mine === undefined) return [];
    const others = passing.flatMap(({ checks }) => {
      const same = checks.find(({ label, ok }) => ok && label === check.label);
      return numberIn(same?.expected) ?? [];
    });
    const [low, high] = [Math.min(...others), Math.max(...others)];
    if (new Set(others).size < leastDrawn || (mine >= low && mine <= high)) return [];
    return [
      {
        at: check.at,
        summary: `The test chose ${mine} for ${quote(shorten(check.label, 24))}, beyond the ${low} to ${high} ${ofPassing(others.length, others.length)}`,
        strength: others.length >= 3 ? 0.95 : 0.7,
        evidence: [check.event],
      },
    ];
  });
}

/** How pages tell how much they take. */
const limits =
  /\b(?:at most|up to|no more than|not more than|maximum(?: of)?|max\.?) (\d{1,6})\b|\b(\d{1,6}) [a-z]{2,20} (?:at most|at the most|is the most|maximum)\b/i;

/** The page told how much it takes at most, and was given more; what is drawn anew each time is now and then too much. */
function beyondLimit(scene: Scene): Omit<Clue, 'code'>[] {
  const { sketch, kin = [], failure } = scene;
  const said = [failure?.actual ?? '', ...pageMessages(scene).map(({ text }) => text)].find((text) =>
    limits.test(text),
  );
  const found = said === undefined ? null : limits.exec(said);
  if (!found) return [];
  const most = Number(found[1] ?? found[2]);
  const step = sketch.steps.findLast((one) => (givenBy(one) ?? 0) > most);
  if (!step) return [];
  const given = givenBy(step)!;
  const place = sketch.steps.indexOf(step);
  const others = kin.flatMap(({ steps }) =>
    steps[place]?.action === step.action ? (givenBy(steps[place]!) ?? []) : [],
  );
  const drawn = others.some((one) => one !== given) && others.every((one) => one > most);
  return [
    {
      at: step.at,
      summary: `${given} was given where the page takes ${most} at most${drawn ? `; others that failed so gave ${[...new Set(others)].slice(0, 3).join(', ')}` : ''}`,
      strength: drawn ? 1 : 0.6,
      evidence: step.events,
    },
  ];
}

/** The number that a step gave to the page: typed, or chosen by what is written on it. */
const givenBy = ({ action, input, text }: SketchStep): number | undefined =>
  action === 'type' ? numberIn(input) : action === 'press' ? numberIn(text) : undefined;

const numberIn = (text: string | undefined): number | undefined =>
  text !== undefined && /^-?\d+(?:\.\d+)?$/.test(text.trim()) ? Number(text) : undefined;

function charactersOf(text: string): string | undefined {
  const found = [...new Set(text.match(oddCharacters) ?? [])];
  return found.length ? `which holds ${found.slice(0, 3).map(quote).join(', ')}` : undefined;
}

/** In what a text differs from all others: characters none of them has, a number beyond theirs, a length beyond theirs. */
function unlike(text: string, others: readonly string[]): string | undefined {
  const mine = [...new Set(text.match(oddCharacters) ?? [])].filter(
    (one) => !others.some((other) => other.includes(one)),
  );
  if (mine.length) return `which holds ${mine.slice(0, 3).map(quote).join(', ')}, as nothing typed`;
  const [number, numbers] = [Number(text), others.map(Number)];
  if (text.trim() !== '' && Number.isFinite(number) && numbers.every(Number.isFinite)) {
    const [low, high] = [Math.min(...numbers), Math.max(...numbers)];
    if (number > high || number < low) return `beyond the ${low} to ${high} typed`;
    return undefined;
  }
  const varied = new Set(others).size > 1;
  if (varied && text.length > Math.max(...others.map((one) => one.length)) * 1.3) return 'longer than anything typed';
  return varied ? undefined : `where ${quote(shorten(others[0]!, 28))} was typed`;
}
