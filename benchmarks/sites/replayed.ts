import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { json, startServerProcess } from '../../tests/helpers.ts';
import { recordedPort, recordedSite, siteNames } from './recorded.ts';

export interface Draw {
  seed: number;
}
export interface SiteCase {
  id: string;
  cause: string;
  kind: string;
  visit: (draw: Draw) => object;
  bad: (draw: Draw) => boolean | null;
  falsePass?: unknown;
  caps?: (draw: Draw) => object;
  load?: unknown;
  before?: unknown;
  alongside?: unknown;
  after?: unknown;
}
export interface Site {
  setVisit(knobs: object): Promise<void> | void;
  close(): Promise<void> | void;
}

/** Where drills find the site: another may be recording meanwhile. */
export const replayPort = 22120;

export interface CaseDrill {
  id: string;
  attempt: string;
  text: string;
  message: string;
}

/** A recorded site that is made ready for drills of its failures: a server on a copy of its recordings. */
export interface Replayed {
  name: string;
  cases: SiteCase[];
  api: string;
  drawFor: (seed: number) => Draw;
  noise: (draw: Draw) => object;
  startSite: (at: { port: number; outsidePort: number; host: string }) => Promise<Site>;
  /** A drill of a case's first failure as planned, at the site as it stands now; nothing where it has none. */
  drillOf(caseId: string): Promise<CaseDrill | undefined>;
  /** The same, mended in one of the ways that are advised. */
  mendedDrillOf(drill: CaseDrill, remedy: string): Promise<CaseDrill>;
}

/** Each site in turn; what was begun for one is ended before the next. */
export async function* replayedSites(values: {
  sites: string;
  into: string;
  seed: string;
  attempts: string;
  only?: string | undefined;
}): AsyncGenerator<Replayed> {
  const load = <T>(...path: string[]): Promise<T> =>
    import(pathToFileURL(join(values.sites, ...path)).href) as Promise<T>;
  const { drawFor } = await load<Pick<Replayed, 'drawFor'>>('kit', 'draw.mjs');
  for (const name of siteNames(values.sites)) {
    if (values.only && !values.only.split(',').includes(name)) continue;
    const recorded = await recordedSite(name, {
      sites: values.sites,
      into: values.into,
      seed: Number(values.seed),
      attempts: Number(values.attempts),
      earlier: 0,
    });
    const { cases } = await load<{ cases: SiteCase[] }>(name, 'cases.mjs');
    const { startSite, noise } = await load<Pick<Replayed, 'startSite' | 'noise'>>(name, 'site.mjs');
    const data = mkdtempSync(join(tmpdir(), 'iskel-replayed-'));
    cpSync(recorded.data, data, { recursive: true });
    const server = await startServerProcess({ data, env: { ISKEL_LAUNCH: 'any' } });
    const api = `${server.address}/api`;
    const from = recordedPort(values.sites, name);
    const made = async (of: { attemptId: string; remedy?: string }, message: string): Promise<CaseDrill> => {
      const { body } = await json<{ id: string; text: string }>('POST', `${api}/drills`, of);
      const text = body.text
        .replaceAll(String(from), String(replayPort))
        .replaceAll(String(from + 1), String(replayPort + 1));
      await json('PUT', `${api}/drills/${body.id}`, { text });
      return { id: body.id, attempt: of.attemptId, text, message };
    };
    const drillOf: Replayed['drillOf'] = async (caseId) => {
      const hurt = recorded.attempts.find((one) => one.caseId === caseId && one.hurt && one.outcome === 'failed');
      return hurt && made({ attemptId: hurt.id }, hurt.message);
    };
    const mendedDrillOf: Replayed['mendedDrillOf'] = ({ attempt, message }, remedy) =>
      made({ attemptId: attempt, remedy }, message);
    try {
      yield { name, cases, api, drawFor, noise, startSite, drillOf, mendedDrillOf };
    } finally {
      await server.stop();
      rmSync(data, { recursive: true, force: true });
    }
  }
}
