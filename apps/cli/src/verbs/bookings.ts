import { languageOfTag } from '@porch/core';
import type { BookingView } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { printLine, printList, type Column } from '../print.ts';
import { results, speech, wrong } from '../words.ts';
import { type CommonOptions, rest, show } from './common.ts';
import { colleagueNamed } from './handover.ts';

const columns: readonly Column<BookingView>[] = [
  ['BOOKING', (b) => b.id.slice(0, 8)],
  ['WHEN', (b) => `${b.wallTime.date} ${b.wallTime.time}`],
  ['LENGTH', (b) => speech.minutes(b.minutes)],
  ['CUSTOMER', (b) => b.customerName],
  ['TOLD', (b) => b.delivery ?? ''],
  ['ABOUT', (b) => b.purpose],
];

export async function bookings(options: CommonOptions): Promise<void> {
  printList({ items: await rest().bookings() }, options, columns, results.nothingBooked);
}

export async function book(
  options: CommonOptions & {
    customer: string;
    mail: string;
    date: string;
    time: string;
    zone?: string;
    minutes: string;
    purpose: string;
    ticket?: string;
    telephone?: string;
    language: string;
    for?: string;
  },
): Promise<void> {
  const technicianId = options.for === undefined ? undefined : (await colleagueNamed(options.for)).id;
  const made = await rest().book({
    customerName: options.customer,
    address: options.mail,
    date: options.date,
    time: options.time,
    minutes: Number(options.minutes),
    purpose: options.purpose,
    language: languageOfTag(options.language),
    ...(options.zone ? { timeZone: options.zone } : {}),
    ...(options.ticket ? { ticketRef: options.ticket } : {}),
    ...(technicianId ? { technicianId } : {}),
    ...(options.telephone ? { telephone: options.telephone } : {}),
  });
  show(made, options, () =>
    printLine(results.booked({ id: made.id.slice(0, 8), ...made.wallTime, zone: made.timeZone })),
  );
}

async function findBooking(given: string): Promise<BookingView> {
  const found = (await rest().bookings()).find((b) => b.id.startsWith(given.toLowerCase()));
  if (!found) throw new CliError(wrong.noBooking({ id: given }), exitCodes.noSession);
  return found;
}

export async function moveBooking(
  given: string,
  options: CommonOptions & { date: string; time: string; minutes: string },
): Promise<void> {
  const { id } = await findBooking(given);
  const moved = await rest().moveBooking(id, {
    date: options.date,
    time: options.time,
    minutes: Number(options.minutes),
  });
  show(moved, options, () => printLine(results.moved(moved.wallTime)));
}

export async function cancelBooking(given: string, options: CommonOptions & { remark: string }): Promise<void> {
  const { id } = await findBooking(given);
  const cancelled = await rest().cancelBooking(id, options.remark);
  show(cancelled, options, () => printLine(results.cancelled));
}
