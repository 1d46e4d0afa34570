import type { Cause } from './cause.ts';

/** The wait's limit was shorter than the page needed. */
export const slowResponse: Cause = {
  code: 'slow-response',
  for: {
    'no-element-told': 0.6,
    'answered-later': 0.8,
    'screen-blank': 1,
    'wait-ended-under-way': 4.8,
    'page-kept-asking': 5,
    'came-after-limit': 4,
    'timeout-told': 1.5,
  },
  against: {
    'served-without': 3,
    'own-request-failed': 3,
    'outside-failed': 4,
    'exception-thrown': 2.5,
    'all-stretched': 4.5,
    'press-point-covered': 3,
    'dialog-in-the-way': 3,
    'commands-slow': 2.5,
    // What the page asks for first does not come by waiting.
    'page-asks': 4,
    // What a press on a disabled control would have brought never comes, however long the wait.
    'acted-on-disabled': 4,
  },
};
