import { riskyActInWords } from '@porch/core';
import type { CarefulActView } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { printLine, printList, type PrintOptions } from '../print.ts';
import { book, desk, results, speech, wrong } from '../words.ts';
import { rest, show } from './common.ts';

const whatOf = ({ act, name }: CarefulActView): string => riskyActInWords(act, name, book);

/** What waits for a second person's yes, or for a lead to look at it. */
export async function carefulActs(options: PrintOptions): Promise<void> {
  const words = desk.carefulActs;
  printList(
    { items: (await rest().porch()).carefulActs },
    options,
    [
      ['ID', ({ actId }) => actId.slice(0, 8)],
      ['ASKED', ({ askedAtMs }) => speech.exactlyHere(askedAtMs)],
      ['WHO', ({ askedByName }) => askedByName],
      ['DEVICE', ({ deviceLabel }) => deviceLabel],
      ['WHAT', whatOf],
      ['REASON', ({ kind, reason }) => reason ?? (kind === 'override' ? '…' : words.standing.waits)],
    ],
    results.noCarefulActs,
  );
}

async function find(given: string | undefined, kind: CarefulActView['kind']): Promise<CarefulActView> {
  const acts = (await rest().porch()).carefulActs.filter((act) => act.kind === kind);
  const found = given === undefined ? acts[0] : acts.find(({ actId }) => actId.startsWith(given.toLowerCase()));
  if (!found) throw new CliError(wrong.noCarefulAct, exitCodes.noSession);
  return found;
}

export async function secondYes(given: string | undefined, isYes: boolean, options: PrintOptions): Promise<void> {
  const found = await find(given, 'second-yes');
  const { sessionId, actId } = found;
  await rest().giveSecondYes(sessionId, actId, isYes);
  show({ sessionId, actId, isYes }, options, () =>
    printLine(results.secondYes[isYes ? 'yes' : 'no']({ name: whatOf(found) })),
  );
}

export async function lookedAt(given: string | undefined, options: PrintOptions): Promise<void> {
  const found = await find(given, 'override');
  const { sessionId, actId } = found;
  await rest().lookAtOverride(sessionId, actId);
  show({ sessionId, actId }, options, () => printLine(results.secondYes.lookedAt({ name: whatOf(found) })));
}
