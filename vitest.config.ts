import { defineConfig } from 'vitest/config';
import { LongestFirst } from './packages/testkit/src/longest-first.ts';

export default defineConfig({
  test: {
    include: ['{packages,apps}/*/{src,test}/**/*.test.ts', 'demo/test/**/*.test.ts', 'test/**/*.test.ts'],
    globalSetup: ['packages/testkit/src/global-setup.ts'],
    reporters: ['default', './packages/testkit/src/slowest-reporter.ts'],
    // A property of 200 schedules takes half a minute on a quiet machine, and thrice that beside other work.
    testTimeout: process.env['PORCH_TEST_LONG'] ? 3_600_000 : 300_000,
    hookTimeout: 180_000,
    maxWorkers: 2,
    sequence: { sequencer: LongestFirst },
  },
});
