import type { PorchView } from '@porch/wire';

export type Recognised =
  | { what: 'nothing'; sentence: string }
  | { what: 'ticket'; ref: string; sentence: string }
  | { what: 'entry'; id: string; sentence: string }
  | { what: 'device'; id: string; sentence: string }
  | { what: 'unknown'; sentence: string };

/** References are the ticket system's own; people leave out dashes, blanks and capitals. */
const bare = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
/** What looks like a reference of some ticket system: one word with a digit in it, and no address. */
const likeReference = /^(?=.*\d)[\p{L}\p{N}][\p{L}\p{N}._#:-]{0,39}$/u;

/** What was typed into the one field, and what Enter will do with it. */
export function recognise(typed: string, porch: PorchView | undefined): Recognised {
  const text = typed.trim();
  if (!text)
    return { what: 'nothing', sentence: 'Enter makes a one-time code, or shows the one that nobody has used yet.' };
  const known = porch?.tickets.find((t) => bare(t.ref) === bare(text));
  if (known)
    return { what: 'ticket', ref: known.ref, sentence: `Enter starts from ticket ${known.ref}: ${known.title}.` };
  const words = text.toLowerCase();
  const device = porch?.devices.find((d) => d.name.toLowerCase() === words);
  if (device)
    return device.state === 'offline'
      ? {
          what: 'unknown',
          sentence: `${device.name} is off just now; send ${device.customerName} an invitation instead.`,
        }
      : { what: 'device', id: device.id, sentence: `Enter knocks at ${device.name} of ${device.customerName}.` };
  const entry = porch?.waiting.find((e) => e.name.toLowerCase().includes(words));
  if (entry) return { what: 'entry', id: entry.id, sentence: `Enter takes ${entry.name}, who waits: ${entry.topic}.` };
  const tickets =
    porch?.tickets.filter((t) =>
      `${t.requester.name} ${t.requester.address} ${t.asset ?? ''}`.toLowerCase().includes(words),
    ) ?? [];
  const [only] = tickets;
  if (only && tickets.length === 1)
    return {
      what: 'ticket',
      ref: only.ref,
      sentence: `Enter starts from ticket ${only.ref} of ${only.requester.name}: ${only.title}.`,
    };
  if (only) return { what: 'unknown', sentence: `${tickets.length} of your tickets fit; choose one below.` };
  if (likeReference.test(text))
    return { what: 'ticket', ref: text, sentence: `Enter looks for the ticket ${text} and starts from it.` };
  return {
    what: 'unknown',
    sentence: 'This is no ticket number, and nobody of that name is waiting or has a ticket of yours.',
  };
}
