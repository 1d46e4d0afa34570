import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { json, startServerProcess } from '../../tests/helpers.ts';
import type { Labelled } from '../sites/recorded.ts';
import { frontOf } from './visits.ts';

/** A test whose fault a visit can have or not have. */
export interface GroundCase {
  id: string;
  cause: string;
  kind: 'flaky' | 'steady' | 'false pass';
  /** Its fault hangs on more than what one visit meets: another zone or engine, a busy machine, neighbours, data of its own. */
  needsMore: boolean;
  /** What visits meet: some that hurt, some that do not; each makes the next visit such a one. */
  visits(bad: boolean): (() => Promise<void> | void)[];
}

export interface CaseDrill {
  id: string;
  attempt: string;
  text: string;
  message: string;
}

/** A place where flaky tests were recorded and can be played again: a server on a copy of its recordings, and the pages. */
export interface Ground {
  name: string;
  cases: GroundCase[];
  api: string;
  /** Opens the pages where drills look for them; `visit` makes the visit that comes next, if one is to be made for each. */
  open(visit?: () => Promise<void> | void): Promise<{ close(): Promise<void> }>;
  /** A drill of a case's first failure as planned, at the pages as they stand now; nothing where it has none. */
  drillOf(caseId: string): Promise<CaseDrill | undefined>;
  /** The same, mended in one of the ways that are advised. */
  mendedDrillOf(drill: CaseDrill, remedy: string): Promise<CaseDrill>;
}

/** Where drills find the pages: others may be recording meanwhile. */
export const replayPort = 22120;

/** Opens pages where drills look for them; with a front before them, which makes visits, they move behind. */
export async function openedAt<Pages extends { close(): Promise<void> | void }>(
  start: (port: number) => Promise<Pages>,
  visit?: () => Promise<void> | void,
): Promise<{ pages: Pages; close(): Promise<void> }> {
  const behind = replayPort + 10;
  const pages = await start(visit ? behind : replayPort);
  const front = visit && (await frontOf(behind, replayPort, visit));
  return {
    pages,
    close: async () => {
      await front?.close();
      await pages.close();
    },
  };
}

/** What a ground has of the server: drills on a copy of what was recorded, with its addresses put to where the pages are now. */
export async function drillsOn(
  data: string,
  attempts: readonly Pick<Labelled, 'id' | 'caseId' | 'hurt' | 'outcome' | 'message'>[],
  moved: (text: string) => string,
): Promise<Pick<Ground, 'api' | 'drillOf' | 'mendedDrillOf'> & { end(): Promise<void> }> {
  const copy = mkdtempSync(join(tmpdir(), 'iskel-replayed-'));
  cpSync(data, copy, { recursive: true });
  const server = await startServerProcess({ data: copy, env: { ISKEL_LAUNCH: 'any' } });
  const api = `${server.address}/api`;
  const made = async (of: { attemptId: string; remedy?: string }, message: string): Promise<CaseDrill> => {
    const { body } = await json<{ id: string; text: string }>('POST', `${api}/drills`, of);
    const text = moved(body.text);
    await json('PUT', `${api}/drills/${body.id}`, { text });
    return { id: body.id, attempt: of.attemptId, text, message };
  };
  return {
    api,
    drillOf: async (caseId) => {
      const hurt = attempts.find((one) => one.caseId === caseId && one.hurt && one.outcome === 'failed');
      return hurt && made({ attemptId: hurt.id }, hurt.message);
    },
    mendedDrillOf: ({ attempt, message }, remedy) => made({ attemptId: attempt, remedy }, message),
    end: async () => {
      await server.stop();
      rmSync(copy, { recursive: true, force: true });
    },
  };
}
