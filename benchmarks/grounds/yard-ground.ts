// The yard as a ground: its mechanisms hurt or do not hurt the visit that comes next, as asked.
import type { Mechanism } from '../../demo/yard/mechanism.ts';
import { mechanisms } from '../../demo/yard/mechanisms.ts';
import { startYard, type YardSite } from '../../demo/yard/site.ts';
import { drillsOn, openedAt, replayPort, type Ground, type GroundCase } from './ground.ts';
import { recordedYard, yardLabels } from './yard-recorded.ts';

/** @param from the folder that `npm run record-yard` recorded into; what was begun is ended with the generator */
export async function* yardGround(from: string): AsyncGenerator<Ground> {
  const { data, attempts, name } = recordedYard(from);
  const labels = yardLabels(from);
  // Each hand of the recording had a yard of its own, on any port: what a drill opens first is the yard.
  const { end, ...drills } = await drillsOn(data, attempts, (text) => {
    const port = /http:\/\/127\.0\.0\.1:(\d+)/.exec(text)?.[1];
    return port ? text.replaceAll(`127.0.0.1:${port}`, `127.0.0.1:${replayPort}`) : text;
  });
  let yard: YardSite | undefined;
  const open: Ground['open'] = async (visit) => {
    const { pages, close } = await openedAt((port) => startYard(mechanisms, port), visit);
    yard = pages;
    return { close };
  };
  const groundCase = (mechanism: Mechanism): GroundCase => ({
    id: mechanism.id,
    cause: mechanism.cause,
    kind: mechanism.passes ? 'false pass' : mechanism.always || mechanism.commit ? 'steady' : 'flaky',
    needsMore:
      Boolean(mechanism.hogs ?? mechanism.engine ?? mechanism.size ?? mechanism.passes ?? mechanism.capabilities) ||
      // What the test itself makes up or does otherwise is in no visit.
      mechanism.cause === 'random-data' ||
      labels.some((one) => one.mechanism === mechanism.id && one.partsNext),
    visits: (bad) =>
      mechanism.always && !bad
        ? []
        : Array.from({ length: 40 }, (_, i) => () => void yard?.next(mechanism, 5000 + i, bad)),
  });
  try {
    yield { name, cases: mechanisms.map(groundCase), ...drills, open };
  } finally {
    await end();
  }
}
