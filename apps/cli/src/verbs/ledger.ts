import { tellToTechnicians, verifyChain } from '@porch/core';
import { decodeLedgerRow, LedgerView, readLedgerRow } from '@porch/wire';
import { readFileSync } from 'node:fs';
import { CliError, exitCodes } from '../exit-codes.ts';
import { keepHead, readHeads } from '../home.ts';
import { clock, printLine } from '../print.ts';
import { type CommonOptions, findSession, rest, show } from './common.ts';

export async function ledger(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given ?? options.session);
  const view = await rest().ledger(id);
  const entries = view.rows.map(decodeLedgerRow).map(readLedgerRow);
  const told = tellToTechnicians(entries);
  // The whole thing, exact bytes included, so that it can be kept and verified elsewhere.
  show({ ...view, told: told.map(({ seq, atMs, sentence, who }) => ({ seq, atMs, who, sentence })) }, options, () => {
    for (const e of told) printLine(`${String(e.seq).padStart(4)}  ${clock(e.atMs)}  ${e.sentence}`);
    for (const a of view.asides) printLine(`aside ${clock(a.atMs)}  ${a.name}: ${a.text}`);
    const last = told.at(-1);
    if (last) printLine(`Head ${last.seq}:${last.hash}`);
  });
}

export async function verify(
  given: string | undefined,
  options: CommonOptions & { head?: string[]; file?: string },
): Promise<void> {
  const named = (options.head ?? []).map(parseHead);
  const view = options.file
    ? readLedgerFile(options.file)
    : await rest().ledger(await findSession(given ?? options.session));
  const kept = readHeads()[view.sessionId];
  const trusted = [...named, ...(kept ? [kept] : [])];
  const verdict = verifyChain(view.rows.map(decodeLedgerRow), trusted);
  const asides = verifyChain(view.asideRows.map(decodeLedgerRow));
  const value = { sessionId: view.sessionId, trustedHeads: trusted, ledger: verdict, asides };
  show(value, options, () => {
    if (verdict.isWhole) {
      printLine(
        `The ledger is whole: ${verdict.rows} entries${verdict.erased ? `, ${verdict.erased} with erased words` : ''}.`,
      );
      printLine(
        trusted.length
          ? `It holds ${trusted.length === 1 ? 'the trusted head' : 'all trusted heads'}.`
          : 'No trusted head was at hand: a ledger made anew from its start would look as whole. Give one with --head SEQ:HASH.',
      );
      printLine(`Head ${verdict.rows}:${verdict.head}`);
    } else printLine(`The ledger is broken at entry ${verdict.atSeq}: ${verdict.fault}.`);
    if (!asides.isWhole) printLine(`The asides are broken at ${asides.atSeq}: ${asides.fault}.`);
  });
  if (!verdict.isWhole || !asides.isWhole) process.exitCode = exitCodes.notWhole;
  else if (!options.file) keepHead(view.sessionId, { seq: verdict.rows, hash: verdict.head });
}

function readLedgerFile(file: string): LedgerView {
  try {
    const { told: _told, ...view } = JSON.parse(readFileSync(file, 'utf8')) as LedgerView & { told?: unknown };
    return LedgerView.parse(view);
  } catch {
    throw new CliError(`${file} is no ledger as “porch ledger --json” prints it.`, exitCodes.wrongCall);
  }
}

function parseHead(text: string): { seq: number; hash: string } {
  const match = /^(\d+):([0-9a-f]{64})$/.exec(text);
  if (!match?.[1] || !match[2])
    throw new CliError('A head looks like 42:9f3c…, with 64 hexadecimal digits.', exitCodes.wrongCall);
  return { seq: Number(match[1]), hash: match[2] };
}

export async function erase(given: string, options: CommonOptions & { rule: string }): Promise<void> {
  const { erased } = await rest().erase(await findSession(given), options.rule);
  show({ erased }, options, () =>
    printLine(`The personal parts of ${erased} entries are gone; the ledger still verifies.`),
  );
}
