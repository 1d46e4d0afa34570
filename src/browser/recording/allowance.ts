import type { Lane } from '../../core/evidence/event.ts';
import { usualLimits, type Limits } from '../../core/rules/limits.ts';

/**
 * How much one attempt may hold. Steps, notes and checks go on for a while after the page's own evidence has come to
 * its end, because without them nothing can be read at all.
 */
export const mostOfAnAttempt = {
  events: usualLimits.events,
  stepsBeyond: 50_000,
  eventBytes: 256 * 1024 ** 2,
  pictureBytes: usualLimits.picturesMb * 1024 ** 2,
} as const;

const spoken: ReadonlySet<Lane> = new Set<Lane>(['step', 'poll', 'note']);

/** Counts what an attempt holds, and what was left out beyond its limits. */
export class Allowance {
  private events = 0;
  private bytes = 0;
  private pictures = 0;
  private readonly left = new Map<string, number>();

  constructor(private readonly most: { [K in keyof typeof mostOfAnAttempt]: number } = mostOfAnAttempt) {}

  /** @param limits as the standing rules say; the usual ones where nothing does */
  static within({ events, picturesMb }: Limits = usualLimits): Allowance {
    return new Allowance({ ...mostOfAnAttempt, events, pictureBytes: picturesMb * 1024 ** 2 });
  }

  /** Whether one more event of a lane may be added; one that may not is counted as left out. */
  allows(lane: Lane): boolean {
    const { events, stepsBeyond, eventBytes } = this.most;
    const more = spoken.has(lane) ? stepsBeyond : 0;
    const fits = this.events < events + more && this.bytes < eventBytes * (more ? 1.25 : 1);
    if (fits) this.events++;
    else this.left.set(lane, (this.left.get(lane) ?? 0) + 1);
    return fits;
  }

  /** Whether a picture or structure of so many bytes may be kept. */
  allowsBytes(size: number): boolean {
    const fits = this.pictures + size <= this.most.pictureBytes;
    if (fits) this.pictures += size;
    else this.left.set('pictures', (this.left.get('pictures') ?? 0) + 1);
    return fits;
  }

  /** So many bytes of events were written. */
  wrote(bytes: number): void {
    this.bytes += bytes;
  }

  /** In words, what was left out. */
  leftOut(): string[] {
    if (this.left.size === 0) return [];
    const { events, eventBytes, pictureBytes } = this.most;
    const parts = [...this.left].map(([what, n]) =>
      what === 'pictures' ? `${n} pictures and structures` : `${n} events of the ${what} lane`,
    );
    return [
      `Left out: ${parts.join(', ')}. An attempt may have ${events} events of ${megabytes(eventBytes)} and pictures of ${megabytes(pictureBytes)}`,
    ];
  }
}

const megabytes = (bytes: number): string => `${Math.round(bytes / 1024 ** 2)} MiB`;
