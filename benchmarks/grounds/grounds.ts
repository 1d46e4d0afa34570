import type { SitesAsked } from '../sites/recorded.ts';
import { siteGrounds } from './site-grounds.ts';
import { yardGround } from './yard-ground.ts';
import type { Ground } from './ground.ts';

/** What is asked for on the command line: sites of others, our own yard, or both. */
export interface GroundsWanted extends Omit<SitesAsked, 'sites'> {
  sites?: string | undefined;
  yard?: string | undefined;
}

export const groundOptions = {
  sites: { type: 'string' },
  into: { type: 'string', default: '.iskel/sites' },
  yard: { type: 'string' },
  only: { type: 'string' },
  case: { type: 'string' },
  seed: { type: 'string', default: '1000' },
  attempts: { type: 'string', default: '6' },
} as const;

/** Each ground in turn; what was begun for one is ended before the next. */
export async function* groundsOf({ sites, yard, ...values }: GroundsWanted): AsyncGenerator<Ground> {
  if (!sites && !yard) throw new Error('say where to look: --sites FOLDER, --yard FOLDER, or both');
  if (sites) yield* siteGrounds({ sites, ...values });
  if (yard) yield* yardGround(yard);
}
