import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

const limits = { testTimeout: 60_000, hookTimeout: 60_000 };

/** Large ones that start no browser and count no milliseconds: they may run beside the units. */
const calm = [
  'tests/house.test.ts',
  'tests/intake/hostile.test.ts',
  'tests/intake/placing.test.ts',
  'tests/intake/webm.test.ts',
  'tests/standing/patterns.test.ts',
];

/** They look at screens of a demo or a server of their own and count no milliseconds: two of them fit on two cores. */
const screens = [
  'tests/bench/labels.test.ts',
  'tests/contrast.test.ts',
  'tests/intake/screens.test.ts',
  'tests/screens.test.ts',
  'tests/why.test.ts',
];

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'demo/**/*.test.ts', ...calm],
          maxWorkers: Math.max(2, availableParallelism() - 1),
          sequence: { groupOrder: 0 },
          ...limits,
        },
      },
      { test: { name: 'screens', include: screens, maxWorkers: 2, sequence: { groupOrder: 1 }, ...limits } },
      // These start browsers and look at times: two files at once would starve each other on two cores.
      {
        test: {
          name: 'real',
          include: ['tests/**/*.test.ts'],
          exclude: [...calm, ...screens],
          fileParallelism: false,
          sequence: { groupOrder: 2 },
          ...limits,
        },
      },
    ],
  },
});
