import { defineConfig } from 'vitest/config';
import { LongestFirst } from './packages/testkit/src/longest-first.ts';

export default defineConfig({
  test: {
    reporters: ['default', './packages/testkit/src/slowest-reporter.ts'],
    maxWorkers: 2,
    sequence: { sequencer: LongestFirst },
    projects: [
      {
        extends: true,
        test: {
          // A part by itself needs nothing around it, and leaves nothing behind: what one file loaded serves the next.
          name: 'parts',
          include: ['{packages,apps}/*/src/**/*.test.ts'],
          isolate: false,
        },
      },
      {
        extends: true,
        test: {
          name: 'whole',
          include: ['{packages,apps}/*/test/**/*.test.ts', 'demo/test/**/*.test.ts', 'test/**/*.test.ts'],
          globalSetup: ['packages/testkit/src/global-setup.ts'],
          // Each file closes what it opens; what it loaded, and compiling that takes seconds, serves the next one.
          isolate: false,
        },
      },
    ],
    // A property of 200 schedules takes half a minute on a quiet machine, and thrice that beside other work.
    testTimeout: process.env['PORCH_TEST_LONG'] ? 3_600_000 : 300_000,
    hookTimeout: 180_000,
  },
});
