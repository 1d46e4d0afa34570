import type { RiskKind } from './risk.ts';

/** What a kind of risk is called in lists. */
export const riskNames: Record<RiskKind, string> = {
  'fixed-sleep': 'sleeps a fixed time',
  unwaited: 'waits for nothing',
  'read-too-early': 'reads too early',
  'page-left-behind': 'acts as the page changes',
  'left-under-way': 'leaves while something is sent',
  'thin-limit': 'is close to a limit',
  'held-across-redraw': 'holds an element across a redraw',
  'place-measured-before': 'presses a place measured before',
  'first-of-several': 'takes the first of several',
  'made-up-locator': 'uses a locator that may not hold',
  'step-sometimes': 'does a step only at times',
  'looked-once': 'looks once whether something is there',
  'window-by-order': 'takes a window by its order',
  'list-may-be-empty': 'checks a list that may be empty',
  'made-up-input': 'makes up what it enters',
  'day-dependent': 'depends on the day',
  'outside-answer': 'needs an outside service',
  'covered-at-times': 'presses what is covered at times',
  'left-by-others': 'begins with what others left',
  'secret-shown': 'shows a secret',
};
