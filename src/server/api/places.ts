import { cannot } from '../../browser/abilities.ts';
import type { Place } from '../../browser/place.ts';
import type { PlaceView } from '../../core/records.ts';

/** A place as programs and pages are told of it. */
export function placeView(place: Place): PlaceView {
  const { ok, message, checkedAt } = place.health();
  return {
    name: place.name,
    engine: place.engine,
    version: place.version,
    remote: place.remote,
    ok,
    message,
    ...(checkedAt === undefined ? {} : { checkedAt }),
    sessions: { open: place.taken, most: place.most },
    cannot: cannot(place.abilities),
  };
}
