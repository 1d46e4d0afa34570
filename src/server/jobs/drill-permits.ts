import { existsSync, realpathSync } from 'node:fs';
import { homedir } from 'node:os';
import { sep } from 'node:path';
import { parseDrill } from '../../core/drill/parse.ts';
import { isConfirmed, reachOf, type Confirmed, type DrillReach } from '../../core/drill/reach.ts';
import { Permits } from '../../browser/player/permits.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Settings } from '../settings.ts';

/** A drill from outside would type what nobody has allowed. */
export class Unconfirmed extends Error {
  constructor(readonly drill: string) {
    super(
      'this drill was made of evidence that was brought in, and types secrets or files of this machine. Open its page, look at what it types where, and allow it there',
    );
  }
}

export type PermitSettings = Pick<Settings, 'anyLaunch'> & { local: Pick<Settings['local'], 'secrets' | 'drillFiles'> };

/** What a drill asks for, where somebody has to look at it first; nothing for one of our own. */
export function asksFor({
  fromOutside,
  confirmed,
  text,
}: StoredDrill): (DrillReach & { allowed: boolean }) | undefined {
  const drill = fromOutside ? parseDrill(text).drill : undefined;
  if (!drill) return undefined;
  const reach = reachOf(drill);
  if (reach.secrets.length === 0 && reach.files.length === 0) return undefined;
  return { ...reach, allowed: isConfirmed(reach, confirmed) };
}

const none: Confirmed = { hosts: [], secrets: [], files: [] };

/** What some drills that are played together may reach. @throws Unconfirmed */
export function permitsOf(drills: readonly StoredDrill[], { anyLaunch, local }: PermitSettings): Permits {
  for (const drill of drills) if (asksFor(drill)?.allowed === false) throw new Unconfirmed(drill.id);
  const outside = drills.filter(({ fromOutside }) => fromOutside);
  const all = (part: keyof Confirmed): string[] => outside.flatMap(({ confirmed }) => (confirmed ?? none)[part]);
  const confirmed = outside.length
    ? {
        hosts: all('hosts'),
        secrets: all('secrets'),
        files: all('files').filter((path) => mayBeTyped(path, local.drillFiles)),
      }
    : undefined;
  return new Permits(anyLaunch, Object.fromEntries(local.secrets.map(({ name, hosts }) => [name, hosts])), confirmed);
}

/** Whether a path is that of no file here, or of one in a folder that the settings name, wherever links lead. */
export function mayBeTyped(path: string, folders: readonly string[]): boolean {
  if (!existsSync(path.replace(/^~/, homedir()))) return true;
  try {
    const real = realpathSync(path);
    return folders.some((folder) => real.startsWith(realpathSync(folder) + sep));
  } catch {
    return false;
  }
}
