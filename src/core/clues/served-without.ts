import { arrivedAt } from '../evidence/event.ts';
import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, sameInPassing } from './scene.ts';

/**
 * The link that was not found stands in no document as it came from the service, on the page where passing attempts
 * find it: what the service knows is another thing, and no script, window or moment of this attempt has to do with it.
 */
export const servedWithout: ClueKind = {
  code: 'served-without',
  about: 'The page came from the service without the link that passing attempts find on it.',
  find: (scene) => {
    const { failing, bodies, network } = scene;
    const locator = failing?.data.locator;
    const step = failingStep(scene);
    if (!failing || !step || !locator?.using.endsWith('link text') || !failing.data.error) return [];
    const same = sameInPassing(scene, step);
    const found = same.filter(({ error, page }) => !error && page === step.page).length;
    if (found === 0 || found < same.length) return [];
    const served = network.findLast((one) => one.data.type === 'document' && arrivedAt(one) <= failing.at);
    const body = bodies.find(({ data }) => data.exchange === served?.id && data.of === 'response');
    if (!served || !body || !/html/.test(body.data.mime ?? '')) return [];
    const stands = standing(body.data.text, locator.value);
    if (stands === 'link') return [];
    return [
      {
        at: failing.at,
        summary: `The page was served without a link ${quote(shorten(locator.value, 28))}${stands ? `; it says ${quote(shorten(stands, 40))}` : ''}; ${ofPassing(found, found)} it was found there`,
        strength: found >= 2 ? 0.95 : 0.8,
        evidence: [failing.id, served.id, body.id],
      },
    ];
  },
};

/** Where a text stands in a document: within a link, or the words it stands in; undefined when nowhere. */
function standing(html: string, text: string): string | undefined {
  let words: string | undefined;
  for (let i = html.indexOf(text); i >= 0; i = html.indexOf(text, i + text.length)) {
    if (html.lastIndexOf('<a', i) > html.lastIndexOf('</a', i)) return 'link';
    words ??= html
      .slice(html.lastIndexOf('>', i) + 1, i + 60)
      .split('<', 1)[0]!
      .trim();
  }
  return words;
}
