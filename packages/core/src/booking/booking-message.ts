import type { Language } from '../language.ts';
import type { MessageTemplate } from '../invitation/message.ts';

export type BookingNotice = 'made' | 'moved' | 'cancelled' | 'reminder';

/** `{until}` is the moment of the booking, in the customer's language and zone. */
export const bookingTemplates: Readonly<Record<BookingNotice, Readonly<Record<Language, MessageTemplate>>>> = {
  made: {
    en: {
      subject: '{desk}: {until}',
      text: `Hello {customer},

{technician} of {desk} helps you on {until}. It is about: {purpose}.

{remark}

When it is time, open this link and press Continue:
{link}

The calendar file with this mail puts it into your calendar. Another time would suit you better? Call {phone}.`,
    },
    no: {
      subject: '{desk}: {until}',
      text: `Hei {customer},

{technician} hos {desk} hjelper deg {until}. Det gjelder: {purpose}.

{remark}

Når det er tid, åpne denne lenken og trykk Fortsett:
{link}

Kalenderfilen i denne e-posten legger det i kalenderen din. Passer et annet tidspunkt bedre? Ring {phone}.`,
    },
    de: {
      subject: '{desk}: {until}',
      text: `Guten Tag {customer},

{technician} von {desk} hilft Ihnen am {until}. Es geht um: {purpose}.

{remark}

Wenn es so weit ist, öffnen Sie diesen Link und klicken Sie auf Weiter:
{link}

Die Kalenderdatei in dieser Mail trägt es in Ihren Kalender ein. Eine andere Zeit passt besser? Rufen Sie {phone} an.`,
    },
  },
  moved: {
    en: {
      subject: '{desk}: now {until}',
      text: `Hello {customer},

The time with {technician} has changed. It is now {until}.

The link stays the same:
{link}`,
    },
    no: {
      subject: '{desk}: nå {until}',
      text: `Hei {customer},

Tiden med {technician} er endret. Den er nå {until}.

Lenken er den samme:
{link}`,
    },
    de: {
      subject: '{desk}: jetzt {until}',
      text: `Guten Tag {customer},

Der Termin mit {technician} hat sich geändert. Er ist jetzt am {until}.

Der Link bleibt derselbe:
{link}`,
    },
  },
  cancelled: {
    en: {
      subject: '{desk}: cancelled, {until}',
      text: `Hello {customer},

The time with {technician} on {until} is cancelled.

{remark}

Do you still need help? Call {phone}.`,
    },
    no: {
      subject: '{desk}: avlyst, {until}',
      text: `Hei {customer},

Tiden med {technician} {until} er avlyst.

{remark}

Trenger du fortsatt hjelp? Ring {phone}.`,
    },
    de: {
      subject: '{desk}: abgesagt, {until}',
      text: `Guten Tag {customer},

Der Termin mit {technician} am {until} ist abgesagt.

{remark}

Brauchen Sie trotzdem Hilfe? Rufen Sie {phone} an.`,
    },
  },
  reminder: {
    en: {
      subject: 'Soon: {technician} of {desk}, {until}',
      text: `Hello {customer},

{technician} helps you on {until}. The link:
{link}`,
    },
    no: {
      subject: 'Snart: {technician} hos {desk}, {until}',
      text: `Hei {customer},

{technician} hjelper deg {until}. Lenken:
{link}`,
    },
    de: {
      subject: 'Bald: {technician} von {desk}, {until}',
      text: `Guten Tag {customer},

{technician} hilft Ihnen am {until}. Der Link:
{link}`,
    },
  },
};
