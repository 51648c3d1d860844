import { z } from 'zod';
import { locales, type Language } from '../language.ts';

/** What a template may name, in curly brackets. */
export const messageFields = ['customer', 'technician', 'desk', 'phone', 'purpose', 'link', 'until', 'remark'] as const;
export type MessageFields = Readonly<Record<(typeof messageFields)[number], string>>;

export interface MessageTemplate {
  readonly subject: string;
  readonly text: string;
}
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
    for (const [language, template] of Object.entries(given[kind] ?? {})) {
      if (!template) continue;
      const unknown = unknownFields(template);
      if (unknown.length) throw new Error(`${kind}, ${language}: there is no field {${unknown.join('}, {')}}`);
      if (!template.text.includes('{link}')) throw new Error(`${kind}, ${language}: the text needs {link}`);
      merged[kind] = { ...merged[kind], [language]: template };
    }
  return merged;
}

const PLACE = /\{(\w+)\}/g;

/** The words of a template that are no field. A desk that writes its own learns of them at the start. */
export const unknownFields = ({ subject, text }: MessageTemplate): string[] =>
  [...`${subject} ${text}`.matchAll(PLACE)]
    .map((m) => m[1] ?? '')
    .filter((name) => !(messageFields as readonly string[]).includes(name));

/** Fields of one line go into a subject too, where a line break would begin another header. */
const oneLine = (text: string) => text.replace(/\s+/g, ' ').trim();

/** A line that holds nothing but an empty field goes, with the empty line after it. */
export function fillTemplate(template: MessageTemplate, fields: MessageFields): MessageTemplate {
  const fill = (text: string) => text.replace(PLACE, (_, name: string) => fields[name as keyof MessageFields] ?? '');
  const lines = template.text
    .split('\n')
    .filter((line) => !/^\{\w+\}$/.test(line) || fill(line).trim() !== '')
    .map(fill);
  return {
    subject: oneLine(fill(template.subject)).slice(0, 200),
    text: lines
      .join('\n')
      .replace(/\n{3,}/g, '\n\n')
      .trim(),
  };
}

export const defaultTemplates: Templates = {
  mail: {
    en: {
      subject: '{technician} of {desk} is ready to help you',
      text: `Hello {customer},

{technician} of {desk} is ready to help you with: {purpose}.

{remark}

Open this link on the computer that has the trouble, and press Continue:
{link}

Nothing is shown before you say yes. The link works until {until}.

You did not ask for help? Then do nothing. The number of {desk} is {phone}.`,
    },
    no: {
      subject: '{technician} hos {desk} er klar til å hjelpe deg',
      text: `Hei {customer},

{technician} hos {desk} er klar til å hjelpe deg med: {purpose}.

{remark}

Åpne denne lenken på maskinen det gjelder, og trykk Fortsett:
{link}

Ingenting vises før du sier ja. Lenken virker til {until}.

Har du ikke bedt om hjelp? Da trenger du ikke å gjøre noe. Nummeret til {desk} er {phone}.`,
    },
    de: {
      subject: '{technician} von {desk} ist bereit, Ihnen zu helfen',
      text: `Guten Tag {customer},

{technician} von {desk} ist bereit, Ihnen zu helfen. Es geht um: {purpose}.

{remark}

Öffnen Sie diesen Link auf dem Computer, um den es geht, und klicken Sie auf Weiter:
{link}

Nichts wird gezeigt, bevor Sie Ja sagen. Der Link gilt bis {until}.

Sie haben nicht um Hilfe gebeten? Dann tun Sie nichts. Die Nummer von {desk} ist {phone}.`,
    },
  },
  'text-message': {
    en: { subject: '', text: '{technician} of {desk} is ready to help you: {link} (until {until})' },
    no: { subject: '', text: '{technician} hos {desk} er klar til å hjelpe deg: {link} (til {until})' },
    de: { subject: '', text: '{technician} von {desk} ist bereit, Ihnen zu helfen: {link} (bis {until})' },
  },
  'ticket-comment': {
    en: {
      subject: '',
      text: `{technician} is ready to help you. Open this link on the computer that has the trouble: {link}

{remark}`,
    },
    no: {
      subject: '',
      text: `{technician} er klar til å hjelpe deg. Åpne denne lenken på maskinen det gjelder: {link}

{remark}`,
    },
    de: {
      subject: '',
      text: `{technician} ist bereit, Ihnen zu helfen. Öffnen Sie diesen Link auf dem Computer, um den es geht: {link}

{remark}`,
    },
  },
  calendar: {
    en: {
      subject: '{desk}: {purpose}',
      text: `{technician} helps you. Open this link when it is time: {link}\n\n{remark}`,
    },
    no: {
      subject: '{desk}: {purpose}',
      text: `{technician} hjelper deg. Åpne denne lenken når det er tid: {link}\n\n{remark}`,
    },
    de: {
      subject: '{desk}: {purpose}',
      text: `{technician} hilft Ihnen. Öffnen Sie diesen Link, wenn es so weit ist: {link}\n\n{remark}`,
    },
  },
};

/** A moment as a person reads it, in their language and zone; says the zone, since who reads it may sit elsewhere. */
export const momentInWords = (atMs: number, language: Language, timeZone: string): string =>
  new Intl.DateTimeFormat(locales[language], {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    hour: '2-digit',
    minute: '2-digit',
    timeZoneName: 'short',
    timeZone,
  }).format(atMs);
