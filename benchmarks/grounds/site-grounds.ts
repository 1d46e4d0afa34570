// Sites that others wrote as grounds: recorded first where that was not done yet.
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { recordedPort, recordedSites, type SitesAsked } from '../sites/recorded.ts';
import { drillsOn, openedAt, replayPort, type Ground, type GroundCase } from './ground.ts';

interface Draw {
  seed: number;
}
interface SiteCase {
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
interface Site {
  setVisit(knobs: object): Promise<void> | void;
  close(): Promise<void> | void;
}
interface SiteCode {
  startSite: (at: { port: number; outsidePort: number; host: string }) => Promise<Site>;
  noise: (draw: Draw) => object;
}

/** Each site in turn; what was begun for one is ended before the next. */
export async function* siteGrounds(values: SitesAsked): AsyncGenerator<Ground> {
  const load = <T>(...path: string[]): Promise<T> =>
    import(pathToFileURL(join(values.sites, ...path)).href) as Promise<T>;
  const { drawFor } = await load<{ drawFor: (seed: number) => Draw }>('kit', 'draw.mjs');
  for await (const recorded of recordedSites(values)) {
    const { name } = recorded;
    const { cases } = await load<{ cases: SiteCase[] }>(name, 'cases.mjs');
    const { startSite, noise } = await load<SiteCode>(name, 'site.mjs');
    const from = recordedPort(values.sites, name);
    const { end, ...drills } = await drillsOn(recorded.data, recorded.attempts, (text) =>
      text.replaceAll(String(from), String(replayPort)).replaceAll(String(from + 1), String(replayPort + 1)),
    );
    let site: Site | undefined;
    const open: Ground['open'] = async (visit) => {
      const { pages, close } = await openedAt(
        (port) => startSite({ port, outsidePort: replayPort + 1, host: '127.0.0.1' }),
        visit,
      );
      site = pages;
      return { close };
    };
    const groundCase = (one: SiteCase): GroundCase => ({
      id: one.id,
      cause: one.cause,
      kind: one.falsePass ? 'false pass' : one.kind === 'steady' ? 'steady' : 'flaky',
      needsMore:
        Boolean(one.load ?? one.before ?? one.alongside ?? one.after ?? one.falsePass ?? one.caps) ||
        one.cause === 'random-data',
      visits: (bad) =>
        Array.from({ length: 400 }, (_, i) => drawFor(5000 + i))
          .filter((draw) => one.bad(draw) === bad)
          .map((draw) => () => site?.setVisit({ ...noise(draw), ...one.visit(draw) })),
    });
    try {
      yield { name, cases: cases.map(groundCase), ...drills, open };
    } finally {
      await end();
    }
  }
}
