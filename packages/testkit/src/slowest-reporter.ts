import type { Reporter, TestModule } from 'vitest/node';

const SHOWN = 8;

/** Prints the files that took longest, so that a suite that grows slow says where. */
export default class SlowestReporter implements Reporter {
  onTestRunEnd(modules: readonly TestModule[]): void {
    const rows = modules
      .map((m) => ({ file: m.relativeModuleId, ms: m.diagnostic().duration + m.diagnostic().collectDuration }))
      .sort((a, b) => b.ms - a.ms);
    process.stdout.write(
      `\nSlowest files:\n${rows
        .slice(0, SHOWN)
        .map(({ file, ms }) => `  ${(ms / 1000).toFixed(1).padStart(6)} s  ${file}`)
        .join('\n')}\n`,
    );
    // The plain closing line: how many tests there were, in words any reader of a log understands.
    const tests = modules.flatMap((m) => [...m.children.allTests()]);
    const count = (state: string) => tests.filter((t) => t.result().state === state).length;
    const skipped = tests.filter((t) => t.result().state === 'skipped');
    for (const { fullName, module } of skipped)
      process.stdout.write(`skipped: ${module.relativeModuleId}: ${fullName}\n`);
    process.stdout.write(
      `\n${count('passed')} passed, ${count('failed')} failed${skipped.length ? `, ${skipped.length} skipped` : ''}\n`,
    );
  }
}
