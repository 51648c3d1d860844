import { z } from 'zod';
import type { Language } from './language.ts';

/*
 * What a customer reads before they begin, if they want the whole of it. A desk writes its own; these say what this
 * software does by itself, and no more.
 */
export const defaultNotice: Readonly<Record<Language, string>> = {
  en: `What for: to help you with the trouble that you or your ticket named, and for nothing else.
What is written down: who was here and when, what you allowed and took back, what was done, what was written and which files were exchanged. Your screen, what is typed and what is in files are not kept.
Who receives it: the help desk, and its ticket system. You get a copy.
How long: as long as the desk keeps its tickets. Ask the desk to have what is personal erased; that it was erased, and by which rule, stays visible.
What you can do: say no to anything, take anything back, and stop, at any moment.`,
  no: `Til hva: for å hjelpe deg med det du eller saken din har nevnt, og ikke til noe annet.
Hva som skrives ned: hvem som var her og når, hva du tillot og tok tilbake, hva som ble gjort, hva som ble skrevet og hvilke filer som ble utvekslet. Skjermen din, det som tastes og innholdet i filer blir ikke tatt vare på.
Hvem som får det: brukerstøtten og dens sakssystem. Du får en kopi.
Hvor lenge: så lenge brukerstøtten tar vare på sakene sine. Be om å få slettet det personlige; at det ble slettet, og etter hvilken regel, forblir synlig.
Hva du kan gjøre: si nei til alt, ta alt tilbake og stoppe, når som helst.`,
  de: `Wofür: um Ihnen bei dem zu helfen, was Sie oder Ihr Ticket genannt haben, und für nichts anderes.
Was aufgeschrieben wird: wer wann hier war, was Sie erlaubt und zurückgenommen haben, was getan wurde, was geschrieben wurde und welche Dateien ausgetauscht wurden. Ihr Bildschirm, was getippt wird und was in Dateien steht, wird nicht aufbewahrt.
Wer es bekommt: der Helpdesk und sein Ticketsystem. Sie bekommen eine Kopie.
Wie lange: so lange, wie der Helpdesk seine Tickets aufbewahrt. Bitten Sie ihn, Persönliches zu löschen; dass und nach welcher Regel gelöscht wurde, bleibt sichtbar.
Was Sie tun können: zu allem Nein sagen, alles zurücknehmen und jederzeit aufhören.`,
};

const text = z.string().trim().min(1).max(8_000);
const Notice = z.strictObject({
  version: z.string().trim().min(1).max(20),
  en: text,
  no: text,
  de: text,
} satisfies Record<Language | 'version', z.ZodType>);

/** Reads a desk's own notice: a version, and the text in every language. Throws with what is wrong. */
export function readNotice(value: unknown): { version: string; texts: Readonly<Record<Language, string>> } {
  const parsed = Notice.safeParse(value);
  if (!parsed.success)
    throw new Error(parsed.error.issues.map((i) => `${i.path.join('.') || 'the file'}: ${i.message}`).join('; '));
  const { version, ...texts } = parsed.data;
  return { version, texts };
}
