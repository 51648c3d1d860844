import { csvOf, differenceInWords, rowsOfPart, signInWords } from '@porch/client';
import { reportPartNames, type Difference, type HealthSign, type SystemReport } from '@porch/core';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printTable } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech } from '../../words.ts';

interface Read {
  readonly report: SystemReport;
  readonly health: readonly HealthSign[];
  readonly earlierAtMs?: number;
  readonly differences?: readonly Difference[];
}
const columns = ['PART', 'WHAT', 'VALUE'];

/** What stands out first, then part by part. */
export async function report(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'systemReport' })) as Read;
  const { systemReport: words } = desk;
  const { parts, missing } = value.report;
  const rows = reportPartNames.flatMap((name) => [
    ...rowsOfPart(name, parts, words, speech).map(([part, label, text]) => [words.parts[part], label, text]),
    ...(missing[name] ? [[words.parts[name], '', words.missing[missing[name]]]] : []),
  ]);
  if (options.csv && !options.json) {
    process.stdout.write(csvOf(columns, rows));
    return;
  }
  show(value, options, () => {
    if (!value.health.length) printLine(words.healthy);
    for (const sign of value.health) printLine(signInWords(sign, words, speech));
    if (value.earlierAtMs === undefined) printLine(words.noEarlier);
    else {
      const when = speech.exactlyHere(value.earlierAtMs);
      printLine(words[value.differences?.length ? 'since' : 'nothingOther']({ when }));
      for (const one of value.differences ?? []) printLine(`  ${differenceInWords(one, words, speech)}`);
    }
    printTable(columns, rows);
  });
}
