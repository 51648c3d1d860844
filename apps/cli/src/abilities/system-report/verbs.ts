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
  const said = new Set<string>();
  const isTold = !options.json && !options.csv;
  const value = options.kept
    ? await lastKept(options.session)
    : ((await callKeeper(options.session, { call: 'systemReport' }, (early) => {
        // What stands out does not wait for what takes long.
        if (isTold) tellWhatStandsOut(early as Read, said);
      })) as Read);
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
    tellWhatStandsOut(value, said);
    if (value.earlierAtMs === undefined && !options.kept) printLine(words.noEarlier);
    printTable(columns, rows);
  });
}

/** Signs of trouble, and what is other than before: each line of it that was not said yet. */
function tellWhatStandsOut({ health, earlierAtMs, differences = [] }: Read, said: Set<string>): void {
  const { systemReport: words } = desk;
  const lines = health.map((sign) => signInWords(sign, words, speech));
  if (earlierAtMs !== undefined) {
    lines.push(words[differences.length ? 'since' : 'nothingOther']({ when: speech.exactlyHere(earlierAtMs) }));
    lines.push(...differences.map((one) => `  ${differenceInWords(one, words, speech)}`));
  }
  for (const line of lines.filter((one) => !said.has(one))) {
    said.add(line);
    printLine(line);
  }
}
