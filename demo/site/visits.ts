import { randomBytes } from 'node:crypto';
import { seeded } from '../../src/core/stats/seeded.ts';

/** Faults of the site. Each works by a real mechanism; the page never names it. */
export const faults = ['panel-rendered-anew', 'notice-over-button', 'late-suggestions'] as const;
export type Fault = (typeof faults)[number];

/**
 * What the timetable's notice board does, which no test looks at: it works; its service fails, which it only writes into the
 * console; or its script throws, which a handler on the page suppresses.
 */
export type Board = 'works' | 'fails' | 'throws';

/** What one visit will meet, drawn once from its seed. */
export interface Visit {
  id: string;
  seed: number;
  faults: Fault[];
  /** The fault shows in this visit: its timing was drawn to hurt. */
  hurts: boolean;
  fareMs: number;
  suggestionMs: number;
  weatherMs: number;
  panelAnew: boolean;
  noticeSlides: boolean;
  popularFirst: boolean;
  /** The ports came with the page, so that suggestions need no answer. */
  portsAtHand: boolean;
  board: Board;
}

/** How often a switched-on fault is given the timing that hurts. */
const hurtRate = 0.45;

const between = (random: () => number, low: number, high: number): number => Math.round(low + random() * (high - low));

/** Draws the conditions of a visit. */
export function drawVisit(seed: number, switchedOn: readonly Fault[], rate = hurtRate): Visit {
  const random = seeded(seed);
  const hurts = switchedOn.length > 0 && random() < rate;
  const on = (fault: Fault): boolean => switchedOn.includes(fault);
  return {
    id: randomBytes(8).toString('hex'),
    seed,
    faults: [...switchedOn],
    hurts,
    fareMs: on('panel-rendered-anew')
      ? hurts
        ? between(random, 420, 620)
        : between(random, 0, 4)
      : between(random, 40, 160),
    suggestionMs: on('late-suggestions') && hurts ? between(random, 460, 680) : between(random, 0, 6),
    weatherMs: on('notice-over-button')
      ? hurts
        ? between(random, 0, 20)
        : between(random, 8000, 9000)
      : between(random, 60, 200),
    panelAnew: on('panel-rendered-anew'),
    noticeSlides: on('notice-over-button'),
    popularFirst: on('late-suggestions'),
    portsAtHand: on('late-suggestions') && !hurts,
    board: 'works',
  };
}

/** The visits of a site: what is planned for the next ones, and what the ones so far were given. */
export class Visits {
  private readonly known = new Map<string, Visit>();
  private readonly planned: {
    seed: number;
    faults: Fault[];
    rate?: number;
    hurting?: Partial<Visit>;
    board?: Board;
  }[] = [];
  private readonly standing = new Map<string, { faults: Fault[]; rate?: number }>();
  private count = 0;

  /** The very next visits get these conditions, one each. @param hurting what those that hurt meet besides */
  plan(seed: number, faultsOn: Fault[], rate?: number, hurting: Partial<Visit> = {}, board: Board = 'works'): void {
    this.planned.push({ seed, faults: faultsOn, rate, hurting, board });
  }

  /** Every visit that begins at this path without a plan of its own draws from these faults. */
  stand(path: string, faultsOn: Fault[], rate?: number): void {
    this.standing.set(path, { faults: faultsOn, rate });
  }

  of(id: string | undefined): Visit | undefined {
    return id ? this.known.get(id) : undefined;
  }

  begin(path: string): Visit {
    const planned = this.planned.shift();
    const standing = this.standing.get(path);
    const drawn = planned
      ? drawVisit(planned.seed, planned.faults, planned.rate)
      : drawVisit(7919 * ++this.count, standing?.faults ?? [], standing?.rate);
    const visit = { ...drawn, board: planned?.board ?? drawn.board, ...(drawn.hurts ? planned?.hurting : {}) };
    this.known.set(visit.id, visit);
    return visit;
  }

  all(): Visit[] {
    return [...this.known.values()];
  }
}
