import { endOf, type StepEvent } from '../evidence/event.ts';
import { locatorText } from '../evidence/locator.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { ClueKind } from './clue.ts';
import { lineOf, type Scene } from './scene.ts';

/** What the test looked for in vain stands in another window or frame. */
export const foundElsewhere: ClueKind = {
  code: 'found-elsewhere',
  about: 'What was not found where the test looked stands in another window or frame.',
  find: (scene) => {
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
  },
};

/**
 * The window or frame the test was looking at when a command came. Where the command does not tell, what it
 * had found there since it last went elsewhere does; a frame it has found nothing in yet has no name, and is
 * none of those that have.
 */
function lookedAt(scene: Scene, step: StepEvent): string | undefined {
  if (step.data.context !== undefined) return step.data.context;
  const went = scene.steps.findLast(
    (one) => one.at < step.at && !one.data.error && (one.data.action === 'frame' || one.data.action === 'window'),
  );
  const { window: opened } = scene;
  const first = opened.find((one) => one.kind === 'opened')?.data.context;
  if (!went) return first;
  const found = scene.steps.findLast(
    (one) => one.at > went.at && one.at < step.at && !one.data.error && one.data.locator !== undefined,
  );
  const there = found && lineOf(scene, found)?.segments.filter((one) => one.state.node !== null);
  const contexts = new Set(there?.flatMap((one) => one.context ?? []));
  if (contexts.size === 1) return [...contexts][0];
  return went.data.action === 'frame' && !/parent|out of/i.test(went.data.label) ? 'a frame' : first;
}
