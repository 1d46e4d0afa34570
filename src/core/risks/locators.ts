import { everywhere, lineTold, sourceOf, usesPage } from './ground.ts';
import { countedName, madeUp } from '../clues/generated-locator.ts';
import { eventOf } from './ground.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { locatorText } from '../evidence/locator.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** One was asked for and used where several match: the first is taken, whichever that is. */
export const firstOfSeveral: RiskFinder = {
  kind: 'first-of-several',
  about: 'One element was used where its locator matches several.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      if (!usesPage(step) || (step.matches ?? 0) < 2 || eventOf(scene, step)?.data.locator?.index) return [];
      const same = everywhere(scene, step);
      const counts = new Set(same.map((one) => one.step.matches).filter((count) => count !== undefined));
      const texts = new Set(same.map((one) => one.step.text).filter((text) => text !== undefined));
      const varies =
        texts.size > 1
          ? `; the first was ${[...texts]
              .slice(0, 2)
              .map((text) => quote(shorten(text, 24)))
              .join(' once, then ')}`
          : counts.size > 1
            ? `; between ${Math.min(...counts)} and ${Math.max(...counts)} in passing attempts`
            : '';
      return [
        {
          ...lineTold(scene, step),
          at: step.at,
          until: step.until,
          summary: `${step.matches} elements match where ${said(step.label)} used the first${varies}`,
          change: `Name the one that is meant: by its text, its row or an attribute of its own`,
          strength: (texts.size > 1 ? 1 : counts.size > 1 ? 0.9 : 0.7) * (step.action === 'read' ? 0.6 : 1),
          evidence: step.events,
        },
      ];
    }),
};

/** A place in a row or a table: it often means just that place. */
const byPlace = /:nth-|\[\d+\]/;

/** A locator built on what a program makes up, counts, or a person moves. */
export const madeUpLocator: RiskFinder = {
  kind: 'made-up-locator',
  about: 'A locator is built on a generated value or on positions.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      const locator = eventOf(scene, step)?.data.locator;
      if (!locator || step.error) return [];
      const sure = madeUp(locator);
      const what =
        sure ?? (!locator.using.includes('link text') && countedName.test(locator.value) ? 'counted' : undefined);
      if (!what) return [];
      return [
        {
          key: `${locatorText(locator)}`,
          step: step.label,
          ...sourceOf(scene, step),
          at: step.at,
          until: step.until,
          summary: `${quote(shorten(locatorText(locator), 44))} is ${what}: another number or order, and it names something else or nothing`,
          change: `Name the element by what it says or by an attribute made for it`,
          strength: sure ? 1 : byPlace.test(locator.value) ? 0.4 : 0.8,
          evidence: step.events,
        },
      ];
    }),
};
