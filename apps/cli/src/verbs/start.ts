import { formatCode, formatSecondNumber, purposeInWords, readAloud } from '@porch/core';
import { CliError, exitCodes } from '../exit-codes.ts';
import { startKeeper } from '../keeper/call-keeper.ts';
import { countDown, printLine } from '../print.ts';
import { book, results, wrong } from '../words.ts';
import { type CommonOptions, findSession, frontDoor, rest, show } from './common.ts';

export async function start(ticketRef: string | undefined, options: CommonOptions & { entry?: string }): Promise<void> {
  const client = rest();
  let queueEntryId: string | undefined;
  if (options.entry) {
    const wanted = options.entry.toLowerCase();
    queueEntryId = (await client.porch()).waiting.find((e) => e.id.startsWith(wanted))?.id;
    if (!queueEntryId) throw new CliError(wrong.noEntry({ id: options.entry }), exitCodes.noSession);
  }
  const started = await client.start({
    ...(ticketRef ? { ticketRef } : {}),
    ...(queueEntryId ? { queueEntryId } : {}),
  });
  await startKeeper(started.session.id);
  show(started, options, () => {
    const { digits, remainingMs, secondNumber } = started.code;
    const about = { code: formatCode(digits), time: countDown(remainingMs) };
    printLine(
      results.started({ id: started.session.id.slice(0, 8), purpose: purposeInWords(started.session.purpose, book) }),
    );
    printLine(started.isNew ? results.code(about) : results.codeUnused(about));
    printLine(results.aloud({ words: readAloud(digits, book) }));
    printLine(results.second({ number: formatSecondNumber(secondNumber) }));
    printLine(results.link({ link: started.link }));
    printLine(results.sayOpen({ host: frontDoor() }));
  });
}

export async function openSession(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given);
  await startKeeper(id);
  show({ sessionId: id }, options, () => printLine(results.opened({ id: id.slice(0, 8) })));
}

export async function code(options: CommonOptions & { new?: boolean; withdraw?: boolean }): Promise<void> {
  const id = await findSession(options.session);
  if (options.withdraw) {
    await rest().withdrawCode(id);
    show({ withdrawn: true }, options, () => printLine(results.codeWithdrawn));
    return;
  }
  const view = options.new ? await rest().newCode(id) : (await rest().session(id)).code;
  if (!view) throw new CliError(wrong.noCode, exitCodes.refused);
  show(view, options, () => {
    printLine(results.codeAlone({ code: formatCode(view.digits), time: countDown(view.remainingMs) }));
    printLine(readAloud(view.digits, book));
    printLine(results.secondAlone({ number: formatSecondNumber(view.secondNumber) }));
  });
}
