import { PrinterRefused, type OpenPrinter, type PrinterOrder, type PrintsPort } from '@porch/host';
import { realClock } from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { MAX_PRINT_TITLE_CHARACTERS } from '@porch/core';
import { IppPrinter } from './ipp-printer.ts';
import { Listed, type ListParts } from './listed.ts';
import { hasPrintSystem, PrintSystem, PrintSystemRefused } from './print-system.ts';
import { accountAtTheOtherEnd } from './who-connects.ts';

const MAX_NAME_CHARACTERS = 60;
/** As whom the print system hands documents on, beside root. */
const PRINT_SYSTEM_ACCOUNT = 'lp';

/** Letters that are no other one with a mark, as names in Latin scripts have them. */
const plainLetters: Readonly<Record<string, string>> = {
  ...{ ø: 'o', Ø: 'O', ł: 'l', Ł: 'L', đ: 'd', Đ: 'D', æ: 'ae', Æ: 'Ae', œ: 'oe', Œ: 'Oe', ß: 'ss', þ: 'th', Þ: 'Th' },
};
/** What programs call it: print systems take letters and digits of ASCII, and little else. */
export function queueNameOf(title: string): string {
  const latin = [...title.normalize('NFD')].map((one) => plainLetters[one] ?? one).join('');
  const name = latin.replace(/\p{M}/gu, '').replace(/[^A-Za-z0-9]+/g, '_');
  return name.replace(/^_+|_+$/g, '').slice(0, MAX_NAME_CHARACTERS) || 'printer';
}

/** The title of a document as it is told: nothing in it moves a cursor or turns a line around. */
export function titleOf(title: string): string {
  const plain = title.replace(/[\p{C}\p{Zl}\p{Zp}]+/gu, ' ').trim();
  return [...plain].slice(0, MAX_PRINT_TITLE_CHARACTERS / 2).join('');
}

/** The number of an account of this computer, as `/etc/passwd` has it (passwd(5)). */
function accountNumber(name: string): number | undefined {
  const line = readFileSync('/etc/passwd', 'utf8')
    .split('\n')
    .find((one) => one.startsWith(`${name}:`));
  return line === undefined ? undefined : Number(line.split(':')[2]);
}

/** Printers in the list of this computer's print system, without any rights; undefined where there is no such system. */
export const linuxPrints = (parts: ListParts): PrintsPort | undefined =>
  hasPrintSystem() ? { open: (order, signal) => openPrinter(order, signal, parts) } : undefined;

async function openPrinter(order: PrinterOrder, signal: AbortSignal, parts: ListParts): Promise<OpenPrinter> {
  const { log } = parts;
  const { username } = userInfo();
  const may = new Set([process.getuid?.(), 0, accountNumber(PRINT_SYSTEM_ACCOUNT)]);
  let listed: Listed | undefined;
  const printer = await IppPrinter.open({
    title: order.title,
    path: `/${randomUUID()}`,
    uuid: randomUUID(),
    nowMs: () => realClock.nowMs(),
    mayConnect: (socket) => may.has(accountAtTheOtherEnd(socket)),
    isTheirs: (user) => user === username,
    room: (sizeBytes) => order.room(sizeBytes),
    take: ({ title, ...document }) => {
      listed?.wasUsed();
      return order.take({ ...document, title: titleOf(title) });
    },
    refused: (why) => order.refused(why),
    warn: (error) => log.warn({ why: String(error) }, 'something was wrong with what came to the printer'),
  });
  try {
    const added = await Listed.add(new PrintSystem(), queueNameOf(order.title), printer.uri, order, parts);
    listed = added;
    signal.throwIfAborted();
    return {
      close: async () => {
        added.remove();
        await printer.close();
      },
    };
  } catch (error) {
    listed?.remove();
    await printer.close();
    if (error instanceof PrintSystemRefused)
      throw new PrinterRefused('their print system takes no printer from this account', { cause: error });
    throw error;
  }
}
