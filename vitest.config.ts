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
      // These start browsers and look at times: two files at once would starve each other on two cores.
      {
        test: {
          name: 'real',
          include: ['tests/**/*.test.ts'],
          exclude: calm,
          fileParallelism: false,
          sequence: { groupOrder: 1 },
          ...limits,
        },
      },
    ],
  },
});
