import { csvOf, differenceInWords, rowsOfPart, signInWords } from '@porch/client';
import { healthOf, reportPartNames, type Difference, type HealthSign, type SystemReport } from '@porch/core';
import { readSystemReport } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printTable } from '../../print.ts';
import { findSession, rest, show, type CommonOptions } from '../../verbs/common.ts';
import { desk, speech, wrong } from '../../words.ts';

interface Read {
  readonly report: SystemReport;
  readonly health: readonly HealthSign[];
  readonly earlierAtMs?: number;
  readonly differences?: readonly Difference[];
}
const columns = ['PART', 'WHAT', 'VALUE'];

async function lastKept(given: string | undefined): Promise<Read> {
  const id = await findSession(given);
  const last = (await rest().systemReports(id)).at(-1);
  const kept = last && readSystemReport(await rest().systemReport(id, last.reportId));
  if (!kept) throw new CliError(wrong.noReport, exitCodes.noSession);
  return { report: kept, health: healthOf(kept.parts, kept.takenAtMs) };
}

/** What stands out first, then part by part. */
export async function report(options: CommonOptions & { kept?: true }): Promise<void> {
  const value = options.kept
    ? await lastKept(options.session)
    : ((await callKeeper(options.session, { call: 'systemReport' })) as Read);
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
    if (value.earlierAtMs === undefined) {
      if (!options.kept) printLine(words.noEarlier);
    } else {
      const when = speech.exactlyHere(value.earlierAtMs);
      printLine(words[value.differences?.length ? 'since' : 'nothingOther']({ when }));
      for (const one of value.differences ?? []) printLine(`  ${differenceInWords(one, words, speech)}`);
    }
    printTable(columns, rows);
  });
}
