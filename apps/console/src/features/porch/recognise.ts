import type { PorchView } from '@porch/wire';

export type Recognised =
  | { what: 'nothing'; sentence: string }
  | { what: 'ticket'; ref: string; sentence: string }
  | { what: 'entry'; id: string; sentence: string }
  | { what: 'device'; id: string; sentence: string }
  | { what: 'unknown'; sentence: string };

/** What was typed into the one field, and what Enter will do with it. */
export function recognise(typed: string, porch: PorchView | undefined): Recognised {
  const text = typed.trim();
  if (!text)
    return { what: 'nothing', sentence: 'Enter makes a one-time code, or shows the one that nobody has used yet.' };
  const ref = /^([a-z]{1,8})[- ]?(\d{1,8})$/i.exec(text);
  if (ref) {
    const full = `${ref[1]?.toUpperCase()}-${ref[2]}`;
    const known = porch?.tickets.find((t) => t.ref === full);
    return {
      what: 'ticket',
      ref: full,
      sentence: `Enter starts from ticket ${full}${known ? `: ${known.title}` : ''}.`,
    };
  }
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
  return {
    what: 'unknown',
    sentence: 'This is no ticket number, and nobody of that name waits or has a ticket of yours.',
  };
}
