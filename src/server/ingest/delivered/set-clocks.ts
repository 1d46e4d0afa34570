import { bareAddress } from '../../../core/formats/address.ts';
import { eventsOf, type EvidenceEvent } from '../../../core/evidence/event.ts';
import { fitClock, pairEvents } from '../../../core/evidence/clocks.ts';
import type { Attempt, EvidenceFile } from '../../../core/records.ts';
import { alignVideo, type Shot } from '../../../core/vision/align.ts';
import { thumbOf } from './frames.ts';
import type { HeldEvents } from './held-events.ts';
import type { Timing } from './materialise.ts';
import type { Pictures } from './pictures.ts';
import type { PlacingTools } from './tools.ts';

/** Puts videos on their attempt's clock by the pictures whose times are known. */
export async function alignVideos(
  tools: PlacingTools,
  rows: { file: EvidenceFile; attempt?: Attempt }[],
  pictures: Pictures,
): Promise<void> {
  const { store } = tools;
  const videos = rows.filter(({ file, attempt }) => file.kind === 'video' && attempt);
  for (const [i, { file, attempt }] of videos.entries()) {
    if (!attempt) continue;
    tools.tell('Setting videos on their clock', i, videos.length);
    const shots: Shot[] = [];
    for (const other of rows) {
      if (other.file.kind !== 'picture' || other.attempt?.id !== attempt.id || other.file.offsetWithin === null)
        continue;
      const thumb = await pictures.thumb(other.file.id);
      if (thumb) shots.push({ at: other.file.offsetMs!, thumb });
    }
    if (attempt.source !== 'imported') {
      const screens = eventsOf(store.events.page(attempt.id, { lane: ['screen'], limit: 200 }).events, 'screen').filter(
        (one) => one.kind !== 'video',
      );
      for (const screen of screens.slice(0, 60)) {
        const thumb = await store.blobs
          .read(screen.data.blob)
          .then(thumbOf)
          .catch(() => undefined);
        if (thumb) shots.push({ at: screen.at, thumb });
      }
    }
    if (shots.length < 2) continue;
    const found = alignVideo(await pictures.video(file.id), shots, file.facts.durationMs ?? 0);
    if (!found) continue;
    if (found.sure)
      setTiming(file, {
        offsetMs: found.offset,
        within: Math.max(1, found.within),
        how: `by ${found.matched} of ${found.of} pictures that it shows at their time`,
      });
    // Not sure to the frame, but nearer than what it says of itself.
    else if (found.matched >= Math.max(2, 0.6 * found.of) && found.within < (file.offsetWithin ?? Infinity))
      setTiming(file, {
        offsetMs: found.offset,
        within: Math.ceil(found.within),
        how: `roughly, by ${found.matched} of ${found.of} pictures that it shows at about their time`,
      });
    else file.offsetHow += `; its pictures do not tell it more exactly`;
  }
}

function setTiming(file: EvidenceFile, timing: Timing): void {
  file.offsetMs = timing.offsetMs;
  file.offsetWithin = timing.within;
  file.offsetHow = timing.how;
}

const keyOf = (event: EvidenceEvent): string | undefined => {
  if (event.lane === 'network') return `${event.data.method} ${bareAddress(event.data.url)}`;
  if (event.lane === 'console') return event.data.text.slice(0, 200);
  return undefined;
};

/** Puts HARs, logs and traces of recorded attempts on their clock by the requests and lines both saw. */
export function alignTimed(
  tools: PlacingTools,
  rows: { file: EvidenceFile; events: HeldEvents; attempt?: Attempt }[],
): void {
  for (const { file, events, attempt } of rows) {
    if (!attempt || attempt.source === 'imported' || !['har', 'log', 'trace'].includes(file.kind)) continue;
    const keyed = (list: readonly EvidenceEvent[], shift: number): { key: string; at: number }[] =>
      list.flatMap((event) => {
        const key = keyOf(event);
        return key ? [{ key, at: event.at + shift }] : [];
      });
    const fit = fitClock(
      pairEvents(keyed(events.all, -attempt.startedAt), keyed(tools.store.events.recorded(attempt.id), 0)),
    );
    if (fit && fit.used >= 2)
      setTiming(file, {
        offsetMs: fit.offset,
        within: fit.within,
        how: `by ${fit.used} of ${fit.of} things that both saw`,
      });
  }
}
