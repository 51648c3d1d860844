import type { Row } from './row.ts';

/** One part of a bench: what it is about, and how it is measured. */
export type Part = readonly [what: string, measure: () => Promise<readonly Row[]>];

/**
 * Every part in turn. One that cannot be measured says so in its place, and the program fails at the end: what the others
 * took so long to measure is not lost.
 */
export async function measured(parts: readonly Part[]): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [what, measure] of parts)
    rows.push(
      ...(await measure().catch((error: unknown) => {
        process.exitCode = 1;
        return [{ what, value: `NOT MEASURED: ${String((error as Error).message)}`, aim: '–' }];
      })),
    );
  return rows;
}

export function printRows(rows: readonly Row[], options: { json?: boolean }): void {
  if (options.json) process.stdout.write(`${JSON.stringify(rows, undefined, 2)}\n`);
  else for (const { what, value, aim } of rows) process.stdout.write(`${what}: ${value} (aim: ${aim})\n`);
}
