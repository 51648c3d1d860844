import { mail } from '@porch/words/mail';
import { speechOf } from '@porch/words';
import { z } from 'zod';
import { languages, type Language } from '../language.ts';

/** What a template may name, in curly brackets. */
export const messageFields = ['customer', 'technician', 'desk', 'phone', 'purpose', 'link', 'until', 'remark'] as const;
export type MessageFields = Readonly<Record<(typeof messageFields)[number], string>>;

export interface Message {
  readonly subject: string;
  readonly text: string;
}
/** A message as it is before it is known what it is about. */
export type MessageTemplate = (fields: MessageFields) => Message;
export type MessageKind = 'mail' | 'text-message' | 'ticket-comment' | 'calendar';
const MessageText = z.strictObject({ subject: z.string().max(300), text: z.string().min(1).max(4_000) });
const InLanguages = z.strictObject({ en: MessageText, no: MessageText, de: MessageText });
const messageKinds = ['mail', 'text-message', 'ticket-comment', 'calendar'] as const satisfies readonly MessageKind[];
/** What a desk writes itself, of each kind and in each language; the rest stays as it comes. */
const OwnTemplates = z.strictObject({
  mail: InLanguages.partial().optional(),
  'text-message': InLanguages.partial().optional(),
  'ticket-comment': InLanguages.partial().optional(),
  calendar: InLanguages.partial().optional(),
});
export type Templates = Readonly<Record<MessageKind, Readonly<Record<Language, MessageTemplate>>>>;

/** Throws with the kind, the language and what is wrong: a field that does not exist, or a message without its link. */
export function readTemplates(own: unknown): Templates {
  const given = OwnTemplates.parse(own);
  const merged = { ...defaultTemplates };
  for (const kind of messageKinds)
    for (const [language, message] of Object.entries(given[kind] ?? {})) {
      if (!message) continue;
      const unknown = unknownFields(message);
      if (unknown.length) throw new Error(`${kind}, ${language}: there is no field {${unknown.join('}, {')}}`);
      if (!message.text.includes('{link}')) throw new Error(`${kind}, ${language}: the text needs {link}`);
      merged[kind] = { ...merged[kind], [language]: templateOf(message) };
    }
  return merged;
}

const PLACE = /\{(\w+)\}/g;

/** The words of a desk's own message that are no field. It learns of them when it writes them. */
export const unknownFields = ({ subject, text }: Message): string[] =>
  [...`${subject} ${text}`.matchAll(PLACE)]
    .map((m) => m[1] ?? '')
    .filter((name) => !(messageFields as readonly string[]).includes(name));

/** What a desk wrote itself, with its fields in curly brackets. */
export const templateOf =
  ({ subject, text }: Message): MessageTemplate =>
  (fields) => {
    const fill = (words: string) =>
      words.replace(PLACE, (_, name: string) => fields[name as keyof MessageFields] ?? '');
    return { subject: fill(subject), text: fill(text) };
  };

/** Fields of one line go into a subject too, where a line break would begin another header. */
const oneLine = (text: string) => text.replace(/\s+/g, ' ').trim();

/** A line on which an empty field stood alone goes, with the empty line after it. */
export function fillTemplate(template: MessageTemplate, fields: MessageFields): Message {
  const { subject, text } = template(fields);
  return { subject: oneLine(subject).slice(0, 200), text: text.replace(/\n{3,}/g, '\n\n').trim() };
}

type InEachLanguage = Readonly<Record<Language, MessageTemplate>>;
const inEach = (template: (language: Language) => MessageTemplate): InEachLanguage =>
  Object.fromEntries(languages.map((language) => [language, template(language)])) as InEachLanguage;
/** Words of the catalogue as a template; text messages and comments have no subject. */
export const fromCatalogue = (
  of: (language: Language) => { subject?: (f: MessageFields) => string; text: (f: MessageFields) => string },
): InEachLanguage =>
  inEach((language) => (fields) => {
    const { subject, text } = of(language);
    return { subject: subject?.(fields) ?? '', text: text(fields) };
  });

export const defaultTemplates: Templates = {
  mail: fromCatalogue((language) => mail[language].mail),
  'text-message': fromCatalogue((language) => mail[language].textMessage),
  'ticket-comment': fromCatalogue((language) => mail[language].ticketComment),
  calendar: fromCatalogue((language) => mail[language].calendar),
};

/** A moment as a person reads it, in their language and zone; says the zone, since who reads it may sit elsewhere. */
export const momentInWords = (atMs: number, language: Language, timeZone: string): string =>
  speechOf(language, timeZone).exactly(atMs);
