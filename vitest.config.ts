import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    // Each test starts the built program, some of them a compiler: two at a time fill two cores.
    maxWorkers: 2,
    // Generous, since machines whose disk is cold take many times as long.
    testTimeout: 600_000,
    hookTimeout: 240_000,
  },
});
