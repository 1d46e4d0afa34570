import { failedAt, writtenElsewhere, type PageWritten } from '../evidence/documents.ts';
import { endOf } from '../evidence/event.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { locatorKey, locatorText } from '../evidence/locator.ts';
import { lookedAt } from '../evidence/looked-at.ts';
import { clean } from '../evidence/markup.ts';
import type { Clue, ClueKind } from './clue.ts';
import { pageAtFailure } from './page-messages.ts';
import type { Scene } from './scene.ts';

/** Shorter texts head many pages. */
const leastHeading = 4;

/** What the test looked for in vain stands in another window or frame. */
export const foundElsewhere: ClueKind = {
  code: 'found-elsewhere',
  about: 'What was not found where the test looked stands in another window or frame.',
  find: (scene) => [...soughtInVain(scene), ...headedElsewhere(scene)],
};

function soughtInVain(scene: Scene): Omit<Clue, 'code'>[] {
  const { failing, window: windows } = scene;
  const locator = failing?.data.locator;
  const missed = failing?.data.error?.code === 'no such element' || failing?.data.error?.code === 'no such window';
  if (!failing || !locator || !missed) return [];
  const own = lookedAt(scene, failing);
  if (own === undefined) return [];
  const line = scene.lifelines.get(locatorKey(locator));
  const there = line?.segments.find(
    (one) => one.state.node !== null && one.context !== undefined && one.context !== own,
  );
  if (!there) return [];
  const frame = !windows.some((one) => one.data.context === there.context);
  return [
    {
      at: endOf(failing),
      summary: `${quote(shorten(locatorText(locator), 32))} stands in ${frame ? 'a frame' : 'another window'} that the test was not looking at`,
      strength: 1,
      evidence: [failing.id, there.event],
    },
  ];
}

/** A check read another page's title or heading: the one it expected heads the page of another window. */
function headedElsewhere(scene: Scene): Omit<Clue, 'code'>[] {
  const { failing, failure, markup } = scene;
  const expected = clean(failure?.expected ?? '');
  if (!failing || !markup || failure?.kind !== 'assertion' || expected.length < leastHeading) return [];
  const own = lookedAt(scene, failing);
  const at = failedAt(scene);
  const here = pageAtFailure(scene);
  if (here && heads(here, expected)) return [];
  const there = writtenElsewhere(scene, own, at, markup).find((page) => heads(page, expected));
  if (!there) return [];
  return [
    {
      at,
      summary: `${quote(shorten(expected, 32))} heads the page of another window, that the test was not looking at`,
      strength: 1,
      evidence: [failing.id, there.event],
    },
  ];
}

const heads = ({ title, elements }: PageWritten, text: string): boolean =>
  title === text || elements.some((element) => /^h[1-3]$/.test(element.tag) && element.text === text);
