import { formatCode, formatSecondNumber, readAloud } from '@porch/core';
import { CliError, exitCodes } from '../exit-codes.ts';
import { startKeeper } from '../keeper/call-keeper.ts';
import { countDown, printLine } from '../print.ts';
import { type CommonOptions, findSession, frontDoor, rest, show } from './common.ts';

export async function start(ticketRef: string | undefined, options: CommonOptions & { entry?: string }): Promise<void> {
  const client = rest();
  let queueEntryId: string | undefined;
  if (options.entry) {
    const wanted = options.entry.toLowerCase();
    queueEntryId = (await client.porch()).waiting.find((e) => e.id.startsWith(wanted))?.id;
    if (!queueEntryId)
      throw new CliError(`Nobody is waiting with entry ${options.entry}. See: porch waiting`, exitCodes.noSession);
  }
  const started = await client.start({
    ...(ticketRef ? { ticketRef } : {}),
    ...(queueEntryId ? { queueEntryId } : {}),
  });
  await startKeeper(started.session.id);
  show(started, options, () => {
    printLine(`Session ${started.session.id.slice(0, 8)}: ${started.session.purpose}`);
    printLine(
      `Code     ${formatCode(started.code.digits)}   (${countDown(started.code.remainingMs)} left${started.isNew ? '' : ', unused so far'})`,
    );
    printLine(`Aloud    ${readAloud(started.code.digits, 'en')}`);
    printLine(`Second   ${formatSecondNumber(started.code.secondNumber)}   (only if their page asks for it)`);
    printLine(`Link     ${started.link}`);
    printLine(`Say:     “Please open ${frontDoor()} in your browser and type the code I read to you.”`);
  });
}

export async function openSession(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given);
  await startKeeper(id);
  show({ sessionId: id }, options, () => printLine(`Session ${id.slice(0, 8)} is open here.`));
}

export async function code(options: CommonOptions & { new?: boolean; withdraw?: boolean }): Promise<void> {
  const id = await findSession(options.session);
  if (options.withdraw) {
    await rest().withdrawCode(id);
    show({ withdrawn: true }, options, () => printLine('The code is withdrawn.'));
    return;
  }
  const view = options.new ? await rest().newCode(id) : (await rest().session(id)).code;
  if (!view) throw new CliError('This session has no unused code. Make one: porch code --new', exitCodes.refused);
  show(view, options, () => {
    printLine(`${formatCode(view.digits)}   (${countDown(view.remainingMs)} left)`);
    printLine(readAloud(view.digits, 'en'));
    printLine(`Second number, only if their page asks for it: ${formatSecondNumber(view.secondNumber)}`);
  });
}
