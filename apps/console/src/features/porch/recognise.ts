import { isTelephone } from '@porch/core';
import type { PorchView } from '@porch/wire';
import type { ConsoleWords } from '@porch/words/console/shape';

/** What Enter will do, in somebody's language. */
type Sentence = (said: ConsoleWords['start']) => string;

export type Recognised =
  | { what: 'nothing'; sentence: Sentence }
  | { what: 'ticket'; ref: string; sentence: Sentence }
  | { what: 'entry'; id: string; sentence: Sentence }
  | { what: 'device'; id: string; sentence: Sentence }
  | { what: 'telephone'; number: string; sentence: Sentence }
  | { what: 'unknown'; sentence: Sentence };

/** References are the ticket system's own; people leave out dashes, blanks and capitals. */
const bare = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
/** What looks like a reference of some ticket system: one word with a digit in it, and no address. */
const likeReference = /^(?=.*\d)[\p{L}\p{N}][\p{L}\p{N}._#:-]{0,39}$/u;

/** What was typed into the one field, and what Enter will do with it. */
export function recognise(typed: string, porch: PorchView | undefined): Recognised {
  const text = typed.trim();
  if (!text) return { what: 'nothing', sentence: (said) => said.nothing };
  const known = porch?.tickets.find((t) => bare(t.ref) === bare(text));
  if (known)
    return { what: 'ticket', ref: known.ref, sentence: (said) => said.ticket({ ref: known.ref, title: known.title }) };
  const words = text.toLowerCase();
  const device = porch?.devices.find((d) => d.name.toLowerCase() === words);
  if (device)
    return device.state === 'offline'
      ? {
          what: 'unknown',
          sentence: (said) => said.offline({ device: device.name, name: device.customerName }),
        }
      : {
          what: 'device',
          id: device.id,
          sentence: (said) => said.device({ device: device.name, name: device.customerName }),
        };
  const entry = porch?.waiting.find((e) => e.name.toLowerCase().includes(words));
  if (entry)
    return { what: 'entry', id: entry.id, sentence: (said) => said.entry({ name: entry.name, topic: entry.topic }) };
  const tickets =
    porch?.tickets.filter((t) =>
      `${t.requester.name} ${t.requester.address} ${t.asset ?? ''}`.toLowerCase().includes(words),
    ) ?? [];
  const [only] = tickets;
  if (only && tickets.length === 1)
    return {
      what: 'ticket',
      ref: only.ref,
      sentence: (said) => said.ticketOf({ ref: only.ref, name: only.requester.name, title: only.title }),
    };
  if (only) return { what: 'unknown', sentence: (said) => said.several({ count: tickets.length }) };
  if (isTelephone(text))
    return { what: 'telephone', number: text, sentence: (said) => said.telephone({ number: text }) };
  if (likeReference.test(text)) return { what: 'ticket', ref: text, sentence: (said) => said.looksFor({ ref: text }) };
  return {
    what: 'unknown',
    sentence: (said) => said.unknown,
  };
}
