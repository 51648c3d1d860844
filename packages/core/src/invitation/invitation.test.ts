import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { languages } from '../language.ts';
import {
  decideUseInvitation,
  evolveDelivery,
  InvitationWay,
  nextWays,
  type Delivery,
  type DeliveryEvent,
} from './invitation.ts';
import {
  defaultTemplates,
  fillTemplate,
  messageFields,
  momentInWords,
  readTemplates,
  templateOf,
  unknownFields,
} from './message.ts';

const event: fc.Arbitrary<DeliveryEvent> = fc.oneof(
  fc.constantFrom<DeliveryEvent>(
    { type: 'handedOver' },
    { type: 'arrived' },
    { type: 'opened' },
    { type: 'withdrawn' },
  ),
  fc.constantFrom<DeliveryEvent>({ type: 'failed', why: 'no mailbox' }, { type: 'heldUp', why: 'busy' }),
);
const from = (first: Delivery, events: readonly DeliveryEvent[]) =>
  events.reduce<Delivery>((s, e) => evolveDelivery(s, e) ?? s, first);

it('believes a person before any gateway, in whatever order the reports come', () => {
  fc.assert(
    fc.property(fc.array(event, { maxLength: 20 }), (events) => {
      const end = from({ name: 'queued' }, events).name;
      const [wasWithdrawn, wasOpened] = (['withdrawn', 'opened'] as const).map((t) => events.some((e) => e.type === t));
      if (wasWithdrawn) expect(end).toBe('withdrawn');
      else if (wasOpened) expect(end).toBe('opened');
      else expect(['queued', 'handed-over', 'delivered', 'failed']).toContain(end);
      if (!wasWithdrawn && !wasOpened && events.some((e) => e.type === 'arrived')) expect(end).toBe('delivered');
    }),
    runs(),
  );
});

it('lets in as often as allowed and not once more, never after its end, never once withdrawn', () => {
  fc.assert(
    fc.property(
      fc.option(fc.integer({ min: 1, max: 5 }), { nil: undefined }),
      fc.integer({ min: 1, max: 100 }),
      fc.array(
        fc.tuple(
          fc.integer({ min: 0, max: 120 }),
          fc.integer({ min: 0, max: 9 }).map((n) => n === 0),
        ),
        { maxLength: 20 },
      ),
      (usesAllowed, expiresAtMs, presses) => {
        let [uses, delivery] = [0, 'delivered' as Delivery['name']];
        for (const [atMs, withdraws] of presses) {
          if (withdraws) delivery = 'withdrawn';
          const decision = decideUseInvitation({ delivery, expiresAtMs, uses, usesAllowed }, atMs);
          if ('refused' in decision) continue;
          expect(delivery).not.toBe('withdrawn');
          expect(atMs).toBeLessThan(expiresAtMs);
          uses++;
        }
        expect(uses).toBeLessThanOrEqual(usesAllowed ?? Infinity);
      },
    ),
    runs(),
  );
});

it('offers each way once, what is carried by somebody before what must be read aloud', () => {
  const all = nextWays({ hasMail: true, hasTexts: true, hasTicket: true, tried: ['mail'] });
  expect(all[0]).toBe('text-message');
  expect([...all, 'mail'].sort()).toEqual([...InvitationWay.options].sort());
  expect(nextWays({ hasMail: false, hasTexts: false, hasTicket: false, tried: [] })[0]).toBe('link');
});

const fields = Object.fromEntries(messageFields.map((f) => [f, `«${f}»`])) as Record<
  (typeof messageFields)[number],
  string
>;

it('writes every message in every language with its link and end, and nothing of the template left', () => {
  for (const kind of Object.values(defaultTemplates))
    for (const language of languages) {
      const { subject, text } = fillTemplate(kind[language], fields);
      expect(text).toContain('«link»');
      expect(subject + text).not.toMatch(/[{}]/);
    }
  expect(unknownFields({ subject: '{desk}', text: '{dsek}' })).toEqual(['dsek']);
  // An empty remark leaves no hole, and a subject stays one line whatever a purpose holds.
  const { subject, text } = fillTemplate(
    templateOf({ subject: 'About {purpose}', text: 'A\n\n{remark}\n\nB {customer}' }),
    { ...fields, remark: '', purpose: 'printer\r\nBcc: x@y.example' },
  );
  expect([subject, text]).toEqual(['About printer Bcc: x@y.example', 'A\n\nB «customer»']);
});

it('takes a desk’s own words for one message, and refuses those that would send a customer nowhere', () => {
  const own = readTemplates({ mail: { en: { subject: 'Help', text: 'Here: {link}' } } });
  expect([own.mail.en({ ...fields, link: 'there' }).text, own.mail.de, own.calendar]).toEqual([
    'Here: there',
    defaultTemplates.mail.de,
    defaultTemplates.calendar,
  ]);
  expect(() => readTemplates({ mail: { no: { subject: '', text: 'Ring oss' } } })).toThrow(/mail, no: the text needs/);
  expect(() => readTemplates({ mail: { de: { subject: '{dsek}', text: '{link}' } } })).toThrow(/no field \{dsek\}/);
  expect(() => readTemplates({ fax: {} })).toThrow();
});

it('says a moment in the zone and the language of who reads it', () => {
  const atMs = Date.UTC(2026, 10, 24, 9, 30);
  expect(momentInWords(atMs, 'en', 'Europe/Oslo')).toMatch(/Tuesday.*24 November.*10:30/);
  expect(momentInWords(atMs, 'no', 'Europe/Oslo')).toMatch(/tirsdag.*24\. november.*10:30/);
  expect(momentInWords(atMs, 'de', 'America/New_York')).toMatch(/Dienstag.*24\. November.*04:30/);
});
