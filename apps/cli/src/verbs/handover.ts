import { type Permission, replay } from '@porch/core';
import { decodeLedgerRow, readLedgerRow, type TechnicianView } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { startKeeper } from '../keeper/call-keeper.ts';
import { printLine } from '../print.ts';
import { results, wrong } from '../words.ts';
import { type CommonOptions, command, rest, show } from './common.ts';
import { askAsColleague } from './permissions.ts';

export async function colleagueNamed(person: string): Promise<TechnicianView> {
  const wanted = person.toLowerCase();
  const colleague = (await rest().colleagues()).find(
    (c) => c.id === wanted || c.email === wanted || c.name.toLowerCase().includes(wanted),
  );
  if (!colleague) throw new CliError(wrong.noColleague({ name: person }), exitCodes.wrongCall);
  return colleague;
}

export async function handOver(person: string, options: CommonOptions & { remark: string }): Promise<void> {
  const colleague = await colleagueNamed(person);
  await command(
    { type: 'requestHandover', handoverId: crypto.randomUUID(), toTechnicianId: colleague.id, remark: options.remark },
    options,
    `${colleague.name} is asked to take over.`,
  );
}

export async function answerHandover(
  given: string | undefined,
  answer: 'accept' | 'decline',
  options: CommonOptions,
): Promise<void> {
  const client = rest();
  const { handovers } = await client.porch();
  const handover = given ? handovers.find((h) => h.handoverId.startsWith(given.toLowerCase())) : handovers[0];
  if (!handover) throw new CliError(wrong.noHandover, exitCodes.noSession);
  const { sessionId } = await client.answerHandover(handover.handoverId, answer);
  if (answer === 'accept') {
    await startKeeper(sessionId);
    // One prompt for the customer lists what the first technician had; they agree for the new key.
    const view = await client.ledger(sessionId);
    const state = replay(view.rows.map(decodeLedgerRow).map(readLedgerRow));
    const from = state.handover?.fromParticipantId ?? '';
    const held = Object.entries(state.standings[from] ?? {})
      .filter(([, s]) => s.name === 'allowed')
      .map(([p]) => p as Permission);
    const answered = await askAsColleague(sessionId, held);
    show({ sessionId, brief: handover.brief, permissions: answered }, options, () => {
      printLine(handover.brief);
      printLine(answered.every((a) => a.standing === 'allowed') ? results.handoverYours : results.handoverNot);
    });
    if (answered.some((a) => a.standing !== 'allowed')) process.exitCode = exitCodes.refused;
  } else show({ sessionId }, options, () => printLine(results.handoverDeclined));
}
