import { onTestFailed, TestRunner } from 'vitest';

/** When the test that is under way fails, says what was to be seen at that moment: some failures come once in a hundred runs. */
export function sayWhenFailed(look: () => string[] | Promise<string[]>): void {
  if (!TestRunner.getCurrentTest()) return;
  onTestFailed(async () => {
    process.stderr.write(`${(await look()).join('\n')}\n`);
  });
}
