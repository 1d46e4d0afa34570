import type { Fault } from './site/visits.ts';

/** Which test meets which fault naturally, and at which address its visit begins. */
export const faultyTests: { fault: Fault; title: string; path: string; cause: string }[] = [
  {
    fault: 'panel-rendered-anew',
    title: 'holds a seat on the evening sailing',
    path: '/sailings/e-1840',
    cause: 'replaced-element',
  },
  {
    fault: 'notice-over-button',
    title: 'adds a bicycle to the hold',
    path: '/sailings/m-0710',
    cause: 'covered-target',
  },
  { fault: 'late-suggestions', title: 'suggests ports as one types', path: '/', cause: 'early-action' },
];

/** The address the demo's site is recorded and replayed at. */
export const demoPort = 4871;
