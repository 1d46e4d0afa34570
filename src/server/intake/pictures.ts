import type { Likeness, Match } from '../../core/placing/place.ts';
import type { Shot } from '../../core/vision/align.ts';
import { difference, type Thumb } from '../../core/vision/thumb.ts';
import { framesOf, thumbOf } from './frames.ts';
import type { LooseFile } from './read-loose.ts';
import type { PlacingTools } from './tools.ts';

/** Thumbs nearer than this may show the same moment, those farther than the other do not: videos are scaled and lossy. */
const sameShot = 14;
const otherShot = 18;
/** Most log-odds a picture gives. */
const mostAhead = 5;

/** Thumbs of pictures and frames of videos, each made once. */
export class Pictures {
  private readonly thumbs = new Map<string, Thumb | undefined>();
  private readonly frames = new Map<string, Shot[]>();
  constructor(
    private readonly tools: PlacingTools,
    private readonly entries: readonly { file: LooseFile; id: string; blob: string }[],
  ) {}

  async thumb(id: string): Promise<Thumb | undefined> {
    if (!this.thumbs.has(id)) {
      const entry = this.entries.find((one) => one.id === id)!;
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
    if (known) return known;
    const { file, blob } = this.entries.find((one) => one.id === id)!;
    this.tools.tell(`Looking at ${file.name}`, this.frames.size, null);
    const made = await framesOf(this.tools.store.blobs.place(blob), file.video!, this.tools.env).catch(
      (error: Error) => {
        this.tools.trouble(file.name, error.message);
        return [];
      },
    );
    this.frames.set(id, made);
    return made;
  }

  /** Whether a picture was taken while a video was filmed; undefined when either tells no time. */
  private during(picture: string, video: string): boolean | undefined {
    const at = this.entries.find(({ id }) => id === picture)?.file.modifiedAt;
    const { from, until } = this.entries.find(({ id }) => id === video)?.file.facts ?? {};
    if (at === undefined || from === undefined || until === undefined) return undefined;
    return at >= from - 300 && at <= until + 500;
  }

  /**
   * What pictures say about where videos and pictures belong: a picture that one video shows and the
   * others do not belongs where that video belongs, and the other way round.
   */
  async likeness(matches: ReadonlyMap<string, Match[]>): Promise<Likeness> {
    const videos = this.entries.filter(({ file, id }) => file.kind === 'video' && matches.has(id));
    const pictures = this.entries.filter(({ file, id }) => file.kind === 'picture' && matches.has(id));
    const nearest = new Map<string, number>();
    for (const picture of pictures) {
      const thumb = await this.thumb(picture.id);
      if (!thumb) continue;
      for (const video of videos) {
        let least = Infinity;
        for (const frame of await this.video(video.id)) least = Math.min(least, difference(thumb, frame.thumb));
        nearest.set(`${picture.id}\n${video.id}`, least);
      }
    }
    const share = (file: string, place: string): number =>
      matches.get(file)?.find((match) => match.place === place)?.score ?? 0;
    return (file, place) => {
      const isVideo = videos.some(({ id }) => id === file);
      const others = isVideo ? pictures : videos;
      let weight = 0;
      let reason: string | undefined;
      for (const other of others) {
        const belongs = share(other.id, place);
        if (belongs < 0.3) continue;
        const [picture, video] = isVideo ? [other.id, file] : [file, other.id];
        // Both times are of the files' own clock, so they fit whatever the report's clock says.
        const during = this.during(picture, video);
        if (during !== undefined) {
          weight += (during ? 3 : -3) * belongs;
          if (during)
            reason = isVideo
              ? 'the attempt’s screenshot was taken while it was filmed'
              : 'it was taken while the attempt’s video was filmed';
        }
        const distance = nearest.get(`${picture}\n${video}`);
        if (distance === undefined) continue;
        // How much better this pair fits than the picture fits any other video.
        const rival = Math.min(
          ...videos.filter(({ id }) => id !== video).map(({ id }) => nearest.get(`${picture}\n${id}`) ?? Infinity),
        );
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
}
