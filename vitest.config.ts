import { defineConfig } from 'vitest/config';

const limits = { testTimeout: 60_000, hookTimeout: 60_000 };

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'unit', include: ['src/**/*.test.ts', 'demo/**/*.test.ts'], ...limits } },
      // These start browsers and look at times: two files at once would starve each other on two cores.
      { test: { name: 'real', include: ['tests/**/*.test.ts'], fileParallelism: false, ...limits } },
    ],
  },
});
