import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

const limits = { testTimeout: 60_000, hookTimeout: 60_000 };

/** Large ones that start no browser and count no milliseconds: they may run beside the units. */
const calm = [
  'tests/house.test.ts',
  'tests/intake/hostile.test.ts',
  'tests/intake/outgrown.test.ts',
  'tests/intake/placing.test.ts',
  'tests/intake/told-later.test.ts',
  'tests/intake/zones.test.ts',
  'tests/intake/mp4.test.ts',
  'tests/intake/webm.test.ts',
  'tests/standing/patterns.test.ts',
];

/** Real browsers, looked at by what they left behind and not by when: two of these beside each other stand it, and have to. */
const hardy = [
  'tests/again.test.ts',
  'tests/api.test.ts',
  'tests/bench/film.test.ts',
  'tests/bidi.test.ts',
  'tests/bisect.test.ts',
  'tests/bench/labels.test.ts',
  'tests/bench/recorded.test.ts',
  'tests/contrast.test.ts',
  'tests/doctor.test.ts',
  'tests/firefox-by-itself.test.ts',
  'tests/firefox.test.ts',
  'tests/hand-over.test.ts',
  'tests/history.test.ts',
  'tests/intake/alignment.test.ts',
  'tests/intake/api.test.ts',
  'tests/intake/deliveries.test.ts',
  'tests/intake/screens.test.ts',
  'tests/intake/secrets.test.ts',
  'tests/in-page.test.ts',
  'tests/killing.test.ts',
  'tests/nearness.test.ts',
  'tests/owner.test.ts',
  'tests/parity.test.ts',
  'tests/places.test.ts',
  'tests/recording.test.ts',
  'tests/rules.test.ts',
  'tests/screens.test.ts',
  'tests/search.test.ts',
  'tests/series.test.ts',
  'tests/stand-in.test.ts',
  'tests/traces.test.ts',
  'tests/triage.test.ts',
  'tests/unseen.test.ts',
  'tests/standing/foreign-page.test.ts',
  'tests/standing/hostile-packs.test.ts',
  'tests/standing/hostile-wire.test.ts',
  'tests/standing/killed.test.ts',
  'tests/standing/secrets.test.ts',
  'tests/standing/ways-in.test.ts',
  'tests/standing/ways-in-engines.test.ts',
  'tests/standing/trouble-disk.test.ts',
  'tests/standing/trouble-drivers.test.ts',
  'tests/standing/trouble.test.ts',
  'tests/webkit.test.ts',
  'tests/wrapped-client.test.ts',
  'tests/why.test.ts',
  'tests/wire.test.ts',
];

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'demo/**/*.test.ts', ...calm],
          maxWorkers: Math.max(2, availableParallelism() - 1),
          // They keep nothing of their own in modules: loading these once for all saves half the time.
          isolate: false,
          sequence: { groupOrder: 0 },
          ...limits,
        },
      },
      {
        test: {
          name: 'hardy',
          include: hardy,
          maxWorkers: 2,
          ...limits,
          // Two beside each other on a machine that stands still for a while take as long again.
          testTimeout: 120_000,
          // What they share are servers and browsers of their own, not modules: loading these anew takes an eighth of the time.
          isolate: false,
          sequence: { groupOrder: 1 },
        },
      },
      // These look at times and at screens: two files at once would starve each other on two cores.
      {
        test: {
          name: 'real',
          include: ['tests/**/*.test.ts'],
          exclude: [...calm, ...hardy],
          fileParallelism: false,
          isolate: false,
          sequence: { groupOrder: 2 },
          ...limits,
        },
      },
    ],
  },
});
