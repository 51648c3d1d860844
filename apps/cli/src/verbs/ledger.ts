import { tellToTechnicians, verifyChain, type ChainVerdict } from '@porch/core';
import { decodeLedgerRow, LedgerView, readLedgerRow } from '@porch/wire';
import { readFileSync } from 'node:fs';
import { CliError, exitCodes } from '../exit-codes.ts';
import { keepHead, readHeads } from '../home.ts';
import { clock, printLine } from '../print.ts';
import { book, desk, results, wrong } from '../words.ts';
import { type CommonOptions, findSession, rest, show } from './common.ts';

const brokenInWords = ({ fault, atSeq }: Extract<ChainVerdict, { isWhole: false }>): string =>
  desk.pastSessions.broken[fault]({ seq: atSeq });

export async function ledger(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given ?? options.session);
  const view = await rest().ledger(id);
  const entries = view.rows.map(decodeLedgerRow).map(readLedgerRow);
  const told = tellToTechnicians(entries, book);
  // The whole thing, exact bytes included, so that it can be kept and verified elsewhere.
  show({ ...view, told: told.map(({ seq, atMs, sentence, who }) => ({ seq, atMs, who, sentence })) }, options, () => {
    for (const e of told)
      printLine(results.entry({ seq: String(e.seq).padStart(4), time: clock(e.atMs), sentence: e.sentence }));
    for (const a of view.asides) printLine(results.aside({ time: clock(a.atMs), name: a.name, text: a.text }));
    const last = told.at(-1);
    if (last) printLine(results.head({ head: `${last.seq}:${last.hash}` }));
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
      const { rows, erased, head } = verdict;
      printLine(erased ? results.wholeErased({ rows, erased }) : results.whole({ rows }));
      printLine(results.trusted({ count: trusted.length }));
      printLine(results.head({ head: `${rows}:${head}` }));
    } else printLine(brokenInWords(verdict));
    if (!asides.isWhole) printLine(results.asidesBroken({ what: brokenInWords(asides) }));
  });
  if (!verdict.isWhole || !asides.isWhole) process.exitCode = exitCodes.notWhole;
  else if (!options.file) keepHead(view.sessionId, { seq: verdict.rows, hash: verdict.head });
}

function readLedgerFile(file: string): LedgerView {
  try {
    const { told: _told, ...view } = JSON.parse(readFileSync(file, 'utf8')) as LedgerView & { told?: unknown };
    return LedgerView.parse(view);
  } catch {
    throw new CliError(wrong.noLedgerFile({ file }), exitCodes.wrongCall);
  }
}

function parseHead(text: string): { seq: number; hash: string } {
  const match = /^(\d+):([0-9a-f]{64})$/.exec(text);
  if (!match?.[1] || !match[2]) throw new CliError(wrong.noHead, exitCodes.wrongCall);
  return { seq: Number(match[1]), hash: match[2] };
}

export async function erase(given: string, options: CommonOptions & { rule: string }): Promise<void> {
  const { erased } = await rest().erase(await findSession(given), options.rule);
  show({ erased }, options, () => printLine(results.erased({ count: erased })));
}
