import { maskMark } from '../evidence/masking.ts';
import { dateIn } from '../clues/date-differs.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { lineOf, sketched } from '../clues/scene.ts';
import { everywhere, lineTold, sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** What is made up anew differs in most attempts. */
const mostlyOther = 0.6;
const fewest = 3;

/** What is typed is another in each attempt: one day it is one that the application does not take. */
export const madeUpInput: RiskFinder = {
  kind: 'made-up-input',
  about: 'What the test enters is made up anew in each attempt.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      if (step.action !== 'type' || step.error || step.input === undefined || step.input.includes(maskMark)) return [];
      const given = everywhere(scene, step).flatMap((one) => one.step.input ?? []);
      const different = new Set(given);
      if (given.length < fewest || different.size < 2 || different.size < given.length * mostlyOther) return [];
      const numbers = [...different].map(Number);
      const range = numbers.every((one) => Number.isFinite(one))
        ? `numbers from ${Math.min(...numbers)} to ${Math.max(...numbers)}`
        : [...different]
            .slice(0, 3)
            .map((text) => quote(shorten(text, 16)))
            .join(', ');
      return [
        {
          ...lineTold(scene, step),
          at: step.at,
          until: step.until,
          summary: `${said(step.label)} was given ${range} in ${given.length} passing attempts: made up anew each time`,
          change: `Give it what the test is about, or draw from what the application is known to take, with a seed that is told`,
          strength: 1,
          evidence: step.events,
        },
      ];
    }),
};

/** So far from the day of the attempt a date is not today's, ms. */
const nearMs = 2.5 * 86_400_000;

/** A step enters or reads a date of these days: it hangs on the day, on the zone, or on midnight. */
export const dayDependent: RiskFinder = {
  kind: 'day-dependent',
  about: 'The test enters or reads the day on which it runs.',
  find: (scene) => {
    const { startedAt } = scene.sketch;
    if (!startedAt) return [];
    const seen = new Set<string>();
    return scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      const text = step.action === 'type' ? step.input : step.action === 'read' || step.polls ? step.value : undefined;
      const date = dateIn(text);
      if (!date || seen.has(step.sig) || !isNear(date, startedAt)) return [];
      seen.add(step.sig);
      return [
        {
          ...lineTold(scene, step),
          at: step.at,
          until: step.until,
          summary: `${said(step.label)} ${step.action === 'type' ? 'enters' : 'reads'} ${quote(date)}, a day near that of the attempt: what is right depends on the zone and on when it runs`,
          change: `Set the clock and the zone of the page, or work the day out as the page does`,
          strength: /\d{4}/.test(date) ? 1 : 0.6,
          evidence: step.events,
        },
      ];
    });
  },
};

function isNear(date: string, startedAt: number): boolean {
  if (/^(?:today|tomorrow|yesterday|tonight)$/i.test(date)) return true;
  const [, day, month, year] = /^(\d{1,2})[./](\d{1,2})[./](\d{2,4})$/.exec(date) ?? [];
  const plain = day
    ? `${year!.length === 2 ? `20${year}` : year}-${month!.padStart(2, '0')}-${day.padStart(2, '0')}`
    : date;
  const years = /\d{4}/.test(plain) ? plain : `${plain} ${new Date(startedAt).getUTCFullYear()}`;
  const at = Date.parse(/^\d{4}-/.test(years) ? years : `${years} UTC`);
  return Number.isFinite(at) && Math.abs(at - startedAt) <= nearMs;
}

/** A secret was typed into a field that shows it: it stands in pictures and videos that nobody masks. */
export const secretShown: RiskFinder = {
  kind: 'secret-shown',
  about: 'A secret was typed into a field that shows what is typed.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      if (step.data.action !== 'type' || step.data.error || !step.data.input?.includes(maskMark)) return [];
      const line = lineOf(scene, step);
      const type = line?.segments.findLast(({ from }) => from <= step.at)?.state.attrs?.type;
      const drawn = sketched(scene, step);
      if (type === undefined || type === 'password' || !drawn) return [];
      return [
        {
          key: drawn.sig,
          step: step.data.label,
          ...sourceOf(scene, drawn),
          at: step.at,
          summary: `${said(step.data.label)} typed a secret where the page shows it: pictures and videos of others hold it`,
          change: `Use one that opens nothing, or a field that hides what is typed`,
          strength: 1,
          evidence: [step.id],
        },
      ];
    }),
};
