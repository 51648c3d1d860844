import ical, { ICalCalendarMethod, ICalEventStatus } from 'ical-generator';
import { toBuffer } from 'qrcode';
import { escapeHtml } from '../../http/escape-html.ts';

export interface CalendarEntry {
  readonly uid: string;
  readonly sequence: number;
  readonly startsAtMs: number;
  readonly minutes: number;
  readonly summary: string;
  readonly description: string;
  readonly link: string;
  /** Who sends it: `from` as mails have it, with or without a name around the address. */
  readonly organizer: { readonly name: string; readonly from: string };
  readonly attendee?: { readonly name: string; readonly email: string };
  readonly isCancelled: boolean;
  readonly remindMinutes: readonly number[];
}

const addressIn = (from: string) => /<([^>]+)>/.exec(from)?.[1] ?? from;

/** One event as a calendar file (RFC 5545, methods of RFC 5546). Moments are in UTC: they mean the same in every zone. */
export function calendarFile(entry: CalendarEntry): string {
  const calendar = ical({
    prodId: { company: 'Zesty Porch', product: 'Sessions', language: 'EN' },
    method: entry.isCancelled ? ICalCalendarMethod.CANCEL : ICalCalendarMethod.REQUEST,
  });
  const event = calendar.createEvent({
    id: entry.uid,
    sequence: entry.sequence,
    start: new Date(entry.startsAtMs),
    end: new Date(entry.startsAtMs + entry.minutes * 60_000),
    stamp: new Date(),
    summary: entry.summary,
    description: entry.description,
    url: entry.link,
    organizer: { name: entry.organizer.name, email: addressIn(entry.organizer.from) },
    status: entry.isCancelled ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
  });
  if (entry.attendee) event.createAttendee({ name: entry.attendee.name, email: entry.attendee.email, rsvp: false });
  if (!entry.isCancelled)
    for (const minutes of entry.remindMinutes)
      event.createAlarm({ type: 'display' as never, trigger: minutes * 60, description: entry.summary });
  return calendar.toString();
}

/** A page for the disk that holds the link and nothing else: opened by a double click on any system. */
export const joinFile = (deskName: string, link: string): string => `<!doctype html>
<html lang="en"><meta charset="utf-8"><title>${escapeHtml(deskName)}</title>
<p>${escapeHtml(deskName)}: <a href="${escapeHtml(link)}">${escapeHtml(link)}</a></p></html>
`;

export const qrPicture = (link: string): Promise<Buffer> => toBuffer(link, { type: 'png', width: 360, margin: 3 });
