import { mail } from '@porch/words/mail';
import type { Language } from '../language.ts';
import { fromCatalogue, type MessageTemplate } from '../invitation/message.ts';

export type BookingNotice = 'made' | 'moved' | 'cancelled' | 'reminder';

/** `until` is the moment of the booking, in the customer's language and zone. */
export const bookingTemplates: Readonly<Record<BookingNotice, Readonly<Record<Language, MessageTemplate>>>> = {
  made: fromCatalogue((language) => mail[language].bookingMade),
  moved: fromCatalogue((language) => mail[language].bookingMoved),
  cancelled: fromCatalogue((language) => mail[language].bookingCancelled),
  reminder: fromCatalogue((language) => mail[language].bookingReminder),
};
