import { duration, said } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep } from './case.ts';
import { waitUntil } from './change.ts';
import { momentAt } from './told.ts';

/** So long without anything under way tells that what was asked for has come and been shown, ms. */
const forMs = 100;

/** Wait until nothing is under way, where something was here and was not in passing attempts: when nothing nearer is known. */
export const untilQuiet: Adviser = (about) => {
  const { step, subject } = about;
  const waited = step && Object.keys(step.inFlight);
  if (!waited?.length) return [];
  const passing = sameStep(about, step!, 'passing');
  const quiet = passing.filter(({ step: one }) => Object.keys(one.inFlight).length === 0);
  if (quiet.length === 0 || quiet.length < passing.length * 0.8) return [];
  const count: [number, number] = [quiet.length, passing.length];
  return [
    {
      kind: 'condition',
      text: `Before ${said(step!.label)}, wait until nothing has been under way for ${duration(forMs)}`,
      because: `${waited.slice(0, 2).join(' and ')} ${waited.length === 1 ? 'was' : 'were'} under way here, and nothing ${inPassing(count)}`,
      passing: count,
      failing: [0, 1],
      shown: [shownStep(momentAt(subject, step!)), shownStep(quiet[0]!)],
      change: {
        at: step!.events,
        change: { do: 'put before', statements: [waitUntil({ kind: 'quiet', forMs })] },
      },
    },
  ];
};
