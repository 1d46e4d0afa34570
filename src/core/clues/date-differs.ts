import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

const months = 'jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec';
/** A day, a month with its year, a time of day, or a word that means one. */
const dates = [
  new RegExp(`\\b\\d{1,2}\\.?\\s+(?:${months})[a-z]*\\.?(?:\\s+\\d{4})?\\b`, 'i'),
  new RegExp(`\\b(?:${months})[a-z]*\\.?\\s+(?:\\d{1,2}(?:,\\s*\\d{4})?|\\d{4})\\b`, 'i'),
  /\b\d{4}-\d{2}-\d{2}\b/,
  /\b\d{1,2}[./]\d{1,2}[./]\d{2,4}\b/,
  /\b(?:today|tomorrow|yesterday|tonight|monday|tuesday|wednesday|thursday|friday|saturday|sunday|last night)\b/i,
];

/** The date in a text, as it is written; undefined without one. */
export function dateIn(text: string | undefined): string | undefined {
  if (text === undefined) return undefined;
  for (const shape of dates) {
    const found = shape.exec(text);
    if (found) return found[0];
  }
  return undefined;
}

/** Expected and found are dates, and not the same: what is right depends on when it is asked. */
export const dateDiffers: ClueKind = {
  code: 'date-differs',
  about: 'What was expected and what was found differ in a date or in a word for a day.',
  find: (scene) => {
    const { failure } = scene;
    const moment = momentOf(scene);
    if (!moment) return [];
    const [wanted, was] = [dateIn(failure?.expected), dateIn(failure?.actual)];
    if (was === undefined || was === wanted) return [];
    return [
      {
        at: moment.at,
        summary: wanted
          ? `${quote(was)} was found where ${quote(wanted)} was expected`
          : `${quote(shorten(failure!.actual!, 40))} speaks of a day, which the expected does not`,
        strength: wanted ? 1 : 0.75,
        evidence: moment.evidence,
      },
    ];
  },
};
