import { arrivedAt, endOf } from '../evidence/event.ts';
import { pathOf, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { acting } from './scene.ts';

/** What makes a page answer to a press is its scripts: pressed before one of them has come, it may do nothing. */
export const actedBeforeScript: ClueKind = {
  code: 'acted-before-script',
  about: 'A script of the page was still being fetched when the test acted.',
  find: (scene) => {
    const scripts = scene.network.filter((one) => one.data.own && one.data.type === 'script');
    if (scripts.length === 0) return [];
    return scene.steps.filter(acting).flatMap((step) => {
      const script = scripts.find((one) => one.at < step.at && arrivedAt(one) > endOf(step));
      if (!script) return [];
      return [
        {
          at: step.at,
          until: endOf(script),
          summary: `${said(step.data.label)} came ${Math.round(endOf(script) - step.at)} ms before the script ${shorten(pathOf(script.data.url), 32)}`,
          strength: 0.9,
          evidence: [step.id, script.id],
        },
      ];
    });
  },
};
