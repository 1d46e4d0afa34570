import { report, wall, worldOf } from './world.ts';

/** Twenty zones of clocks, minutes east of UTC. */
const twenty = [
  0, 60, 120, 180, 210, 240, 270, 330, 345, 420, 480, 540, 570, 600, 660, 780, -180, -210, -300, -480,
] as const;

/** A log that names no zone beside a report that does, by a clock that is up to a minute and a half wrong. */
export function zoneFolder(seed: number): { zone: number; files: { name: string; bytes: Buffer }[] } {
  const world = worldOf(seed, { tests: [1, 6], seconds: [3, 60] });
  const zone = twenty[seed % twenty.length]!;
  // Every other log is of a machine elsewhere than the one that wrote the report.
  if (seed % 2 === 0) world.zone = zone;
  const skew = world.draw(-90_000, 90_000);
  const from = world.tries[0]!.from;
  const until = world.tries.at(-1)!.until;
  const lines = Array.from({ length: world.draw(5, 60) }, () => from + world.random() * (until - from)).sort(
    (a, b) => a - b,
  );
  const text = lines
    .map((at, i) => {
      const t = wall(at + skew, zone);
      return `${t.y}-${t.mo}-${t.d} ${t.h}:${t.mi}:${t.s},${t.ms} INFO counter - line ${i}`;
    })
    .join('\n');
  return {
    zone,
    files: [
      {
        name: 'report.xml',
        bytes: Buffer.from(report(world, world.tries, { stamp: 'offset', fine: true, each: true })),
      },
      { name: 'counter.log', bytes: Buffer.from(`${text}\n`) },
    ],
  };
}
