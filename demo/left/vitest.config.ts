import { defineConfig } from 'vitest/config';

export default defineConfig({ test: { include: ['demo/left/*.spec.ts'], fileParallelism: false } });
