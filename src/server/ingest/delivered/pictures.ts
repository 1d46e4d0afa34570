import type { VideoMime } from '../../../core/formats/video.ts';
import { isDoubtful, type Match } from '../../../core/placing/place.ts';
import type { Likeness } from '../../../core/placing/weigh.ts';
import type { Shot } from '../../../core/vision/align.ts';
import { difference, thumbSize, type Thumb } from '../../../core/vision/thumb.ts';
import { framesOf, thumbOf } from './frames.ts';
import type { LooseEntry } from './loose-entry.ts';
import type { PlacingTools } from './tools.ts';

/** Thumbs nearer than this may show the same moment, those farther than the other do not: videos are scaled and lossy. */
const sameShot = 14;
const otherShot = 18;
/** Most log-odds a picture gives. */
const mostAhead = 5;

type Entry = Pick<LooseEntry, 'file' | 'id' | 'blob' | 'spans'>;

/** What a file and a video say of each other. */
interface Meeting {
  /** The file was written while the video was filmed; undefined when either tells no time. */
  during: boolean | undefined;
  /** To the nearest frame of the video; undefined when it is no picture that can be decoded. */
  distance: number | undefined;
  /** To the nearest frame of any other video. */
  rival: number;
}

/** Memory that frames of videos may take; those looked at longest ago are decoded again when they are needed. */
const mostHeld = 48 * 1024 ** 2;
/** Pictures compared in one delivery: some ten seconds’ work. */
const mostCompared = 5_000_000;

/** Thumbs of pictures and frames of videos, each made once as far as there is room. */
export class Pictures {
  private readonly thumbs = new Map<string, Thumb | undefined>();
  private readonly frames = new Map<string, Shot[]>();
  private readonly entries: ReadonlyMap<string, Entry>;
  /** Of each file that is no video with each video; the same in every round of placing. */
  private meetings: Map<string, Map<string, Meeting>> | undefined;
  constructor(
    private readonly tools: PlacingTools,
    entries: readonly Entry[],
  ) {
    this.entries = new Map(entries.map((entry) => [entry.id, entry]));
  }

  async thumb(id: string): Promise<Thumb | undefined> {
    if (!this.thumbs.has(id)) {
      const entry = this.entries.get(id)!;
      this.thumbs.set(
        id,
        await this.tools.store.blobs
          .read(entry.blob)
          .then(thumbOf)
          .catch(() => undefined),
      );
    }
    return this.thumbs.get(id);
  }

  async video(id: string): Promise<Shot[]> {
    const known = this.frames.get(id);
    if (known) {
      this.frames.delete(id);
      this.frames.set(id, known);
      return known;
    }
    const { file, blob } = this.entries.get(id)!;
    const made = await framesOf(
      this.tools.store.blobs.place(blob),
      file.video!,
      this.tools.env,
      file.facts.mime as VideoMime,
    ).catch((error: Error) => {
      this.tools.trouble(file.name, error.message);
      return [];
    });
    this.frames.set(id, made);
    let held = 0;
    for (const frames of this.frames.values()) held += frames.length * thumbSize;
    for (const [oldest, frames] of this.frames) {
      if (held <= mostHeld || oldest === id) break;
      this.frames.delete(oldest);
      held -= frames.length * thumbSize;
    }
    return made;
  }

  /** Gives back the room of what was decoded. */
  letGo(): void {
    this.frames.clear();
    this.thumbs.clear();
  }

  /**
   * What pictures say about where videos and pictures belong: a picture that one video shows and the
   * others do not belongs where that video belongs, and the other way round.
   */
  async likeness(matches: ReadonlyMap<string, Match[]>): Promise<Likeness> {
    const placed = [...this.entries.values()].filter(({ id }) => matches.has(id));
    const videos = placed.filter(({ file }) => file.kind === 'video');
    const pictures = placed.filter(({ file }) => file.kind === 'picture');
    const meetings = (this.meetings ??= await this.meetAll(placed, videos, matches));
    const share = (file: string, place: string): number =>
      matches.get(file)?.find((match) => match.place === place)?.score ?? 0;
    return (file, place) => {
      const isVideo = !meetings.has(file);
      let weight = 0;
      let reason: string | undefined;
      for (const other of isVideo ? pictures : videos) {
        const belongs = share(other.id, place);
        if (belongs < 0.3) continue;
        const meeting = isVideo ? meetings.get(other.id)!.get(file) : meetings.get(file)!.get(other.id);
        if (!meeting) continue;
        const { during, distance, rival } = meeting;
        // Both times are of the files' own clock, so they fit whatever the report's clock says.
        if (during !== undefined) {
          weight += (during ? 3 : -3) * belongs;
          if (during)
            reason = isVideo
              ? 'the attempt’s screenshot was taken while it was filmed'
              : 'it was taken while the attempt’s video was filmed';
        }
        if (distance === undefined) continue;
        // Among the videos of a delivery, the one that shows a picture stands out by how much nearer it is.
        const ahead = Math.max(-mostAhead, Math.min(mostAhead, rival - distance));
        if (Math.min(distance, rival) < sameShot) weight += ahead * belongs;
        else if (distance > otherShot) weight -= 3 * belongs;
        if (distance < sameShot && ahead > 1.5)
          reason = isVideo ? 'it shows what the attempt’s screenshot shows' : 'the attempt’s video shows this picture';
      }
      return { weight: Math.max(-8, Math.min(8, weight)), ...(reason ? { reason } : {}) };
    };
  }

  private async meetAll(
    placed: readonly Entry[],
    videos: readonly Entry[],
    matches: ReadonlyMap<string, Match[]>,
  ): Promise<Map<string, Map<string, Meeting>>> {
    const all = new Map<string, Map<string, Meeting>>();
    const unsure = new Set(placed.filter(({ id }) => isDoubtful(matches.get(id))).map(({ id }) => id));
    const mayMeet = (one: Entry, video: Entry): boolean => {
      const [own, its] = [matches.get(one.id) ?? [], matches.get(video.id) ?? []];
      return !own.length || !its.length || own.some(({ place }) => its.some((match) => match.place === place));
    };
    let looked = 0;
    for (const one of placed) {
      if (one.file.kind === 'video') continue;
      // What both are sure of without pictures, pictures need not say again.
      const near = videos.filter((video) => (unsure.has(one.id) || unsure.has(video.id)) && mayMeet(one, video));
      if (near.length) this.tools.tell('Comparing pictures', looked++, null);
      all.set(one.id, await this.meet(one, near));
    }
    return all;
  }
  private compared = 0;

  /** A file against every video: what does not depend on where either belongs, found once. Only a picture has a distance. */
  private async meet(one: Entry, videos: readonly Entry[]): Promise<Map<string, Meeting>> {
    const thumb = one.file.kind === 'picture' ? await this.thumb(one.id) : undefined;
    const distances: (number | undefined)[] = [];
    for (const video of videos) {
      let least = Infinity;
      if (thumb && this.compared < mostCompared)
        for (const frame of await this.video(video.id)) {
          least = Math.min(least, difference(thumb, frame.thumb));
          this.compared++;
        }
      distances.push(least === Infinity ? undefined : least);
    }
    const [own] = one.spans;
    const at = own?.from;
    return new Map(
      videos.map(({ id, spans }, v) => {
        const [span] = spans;
        // Times of writing say something of each other only: both may have been copied.
        const alike = own?.firm === span?.firm;
        const timed = at !== undefined && span !== undefined && spans.length === 1 && alike;
        const rival = Math.min(
          ...distances.map((distance, other) => (other === v ? Infinity : (distance ?? Infinity))),
        );
        return [
          id,
          {
            during: timed ? at >= span.from - 300 && at <= span.until + 500 : undefined,
            distance: distances[v],
            rival,
          },
        ];
      }),
    );
  }
}
