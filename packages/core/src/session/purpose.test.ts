import { describe, expect, it } from 'vitest';
import { speechOf } from '@porch/words';
import { ledger } from '@porch/words/ledger';
import { languages } from '../language.ts';
import { mayReadPersonal } from '../ledger/readers.ts';
import type { SessionEvent } from './session-events.ts';
import { notedFacts } from '../ability/noted-facts.ts';
import { NO_PURPOSE, purposeForCustomer } from './purpose.ts';

describe('what a session is for', () => {
  it('is told to customers in their own words where they said it, whatever the technician reads', () => {
    const state = { purpose: 'Printing: Skriveren skriver ikke', customerPurpose: 'Skriveren skriver ikke' };
    for (const language of languages)
      expect(purposeForCustomer(state, ledger[language])).toBe('Skriveren skriver ikke');
  });

  it('is told in their language where nobody said anything, or nothing that is for them', () => {
    for (const language of languages) {
      const book = ledger[language];
      const expected = book.kernel.noPurpose;
      expect(purposeForCustomer({ purpose: NO_PURPOSE, customerPurpose: undefined }, book)).toBe(expected);
      expect(purposeForCustomer({ purpose: undefined, customerPurpose: undefined }, book)).toBe(expected);
      const unread = { purpose: 'Ticket MF-201, which cannot be read just now', customerPurpose: '' };
      expect(purposeForCustomer(unread, book)).toBe(expected);
    }
  });

  it('is a ticket’s title as its system has it', () => {
    const title = 'Boarding passes print with half a barcode';
    expect(purposeForCustomer({ purpose: title, customerPurpose: undefined }, ledger.de)).toBe(title);
  });
});

it('says things in a row as each language does', () => {
  expect(languages.map((language) => speechOf(language).list(['a', 'b', 'c']))).toEqual([
    'a, b and c',
    'a, b og c',
    'a, b und c',
  ]);
  expect(speechOf('no').list(['a'])).toBe('a');
  expect(speechOf('de').list([])).toBe('');
});

it('has the words of every fact that came too late, and in each language other ones', () => {
  for (const fact of notedFacts)
    expect(new Set(languages.map((language) => ledger[language].kernel.facts[fact])).size, fact).toBe(languages.length);
});

it('is read by whoever holds only a code, and whom the session is for is not', () => {
  const stranger = { id: 'stranger', part: 'page', proof: undefined } as const;
  const known = { ...stranger, proof: 'ticket' } as const;
  const by = 'technician:pim';
  const prepared = (more: object) =>
    ({
      type: 'sessionPrepared',
      by,
      technicianId: 'pim',
      behind: 'ticket',
      personal: { technicianName: 'Pim Aldersey', purpose: 'Half a barcode', ...more },
    }) as SessionEvent;
  const expected = { type: 'customerExpected', by, personal: { customerName: 'Bettina Crole' } } as SessionEvent;
  expect([mayReadPersonal(prepared({}), stranger), mayReadPersonal(expected, stranger)]).toEqual([true, false]);
  expect(mayReadPersonal(prepared({ customerName: 'Bettina Crole' }), stranger), 'an older session').toBe(false);
  expect([mayReadPersonal(prepared({}), known), mayReadPersonal(expected, known)]).toEqual([true, true]);
});
