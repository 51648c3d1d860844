import { isTelephone, purposeInWords } from '@porch/core';
import type { CallerView } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { printLine, printTable } from '../print.ts';
import { book, desk, results, speech } from '../words.ts';
import { type CommonOptions, rest, show } from './common.ts';

const columns = ['WHAT', 'WHICH', 'WHEN', 'ABOUT'];
const rowsOf = (person: CallerView): string[][] => [
  ...person.waiting.map((e) => [
    desk.caller.waits,
    e.id.slice(0, 8),
    speech.exactlyHere(e.sinceMs),
    `${e.topic}: ${e.description}`,
  ]),
  ...person.bookings.map((b) => [
    desk.caller.booking,
    b.id.slice(0, 8),
    speech.exactlyHere(b.startsAtMs),
    `${b.technicianName}: ${b.purpose}`,
  ]),
  ...person.tickets.map((t) => [desk.caller.ticket, t.ref, '', [t.asset, t.title].filter(Boolean).join(': ')]),
  ...person.devices.map((d) => [desk.caller.device, d.name, '', desk.devices.states[d.state]]),
  ...person.sessions.map((s) => [
    desk.caller.session,
    s.id.slice(0, 8),
    speech.exactlyHere(s.preparedAtMs),
    purposeInWords(s.purpose, book),
  ]),
];

/** Who is on the telephone. */
export async function caller(number: string[], options: CommonOptions): Promise<void> {
  const telephone = number.join(' ');
  if (!isTelephone(telephone)) throw new CliError(desk.caller.notANumber, exitCodes.wrongCall);
  const found = await rest().findCallers(telephone);
  if (found.ticketTrouble) process.stderr.write(`${found.ticketTrouble}.\n`);
  show(found, options, () => {
    if (!found.people.length) printLine(results.nobodyCalls);
    for (const person of found.people) {
      printLine([person.name, ...(person.address ? [person.address] : [])].join(' · '));
      printTable(columns, rowsOf(person));
    }
  });
}
