import type { ClueKind } from './clue.ts';
import { ofPassing, wholeOf } from './scene.ts';

/** Passing attempts were made in other places only, and it failed so in no other. */
export const placeOnly: ClueKind = {
  code: 'place-only',
  about: 'No passing attempt was made in this place, and none in another failed so.',
  find: (scene) => {
    const own = scene.sketch.environment.place;
    const places = scene.passing.flatMap((one) => one.environment.place ?? []);
    const whole = wholeOf(scene);
    if (!own || !whole || places.length === 0 || places.includes(own)) return [];
    if (scene.kin?.some(({ environment: { place } }) => place && place !== own)) return [];
    return [
      {
        ...whole,
        summary: `It ran at ${own}; ${ofPassing(places.length, places.length)} it was ${[...new Set(places)].join(' or ')}`,
        strength: places.length >= 3 ? 0.8 : 0.5,
      },
    ];
  },
};
