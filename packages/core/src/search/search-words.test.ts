import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { searchWords, wordsOf, MAX_WORD_CHARACTERS } from './search-words.ts';

describe('the words by which something is found', () => {
  it('are those of any script, without case, accents and what stands between', () => {
    expect(searchWords('Bettina SKÅR, MF-1042: skår')).toEqual(['bettina', 'skar', 'mf', '1042']);
    expect(searchWords('Größe Straße Ærø')).toEqual(['große', 'straße', 'ærø']);
    expect(searchWords('مرحبا بك 🖨️ プリンタ')).toEqual(['مرحبا', 'بك', '🖨', 'フリンタ']);
    expect(searchWords('  …!? ')).toEqual([]);
  });

  it('are the same however a text is cut at its spaces, and never longer than may be kept', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'grapheme' })), (parts) => {
        const whole = searchWords(parts.join(' '));
        expect(new Set(parts.flatMap(searchWords))).toEqual(new Set(whole));
        for (const found of whole) {
          expect([...found].length).toBeLessThanOrEqual(MAX_WORD_CHARACTERS);
          expect(searchWords(found)).toEqual([found]);
        }
      }),
      { numRuns: 200, seed: 11 },
    );
  });

  it('of an entry are what is personal in it, its ticket and its outcome, and nothing of what programs need', () => {
    expect(
      wordsOf({
        type: 'sessionPrepared',
        by: 'technician:pim',
        technicianId: 'pim',
        behind: 'ticket',
        ticketRef: 'MF-1042',
        personal: { technicianName: 'Pim Ostrander', purpose: 'The printer prints blank' },
      }),
    ).toEqual(['pim', 'ostrander', 'the', 'printer', 'prints', 'blank', 'mf', '1042']);
    expect(
      wordsOf({ type: 'outcomeLogged', by: 'p', outcome: 'worked-around', minutes: 3, personal: { note: 'Cable.' } }),
    ).toEqual(['cable', 'worked', 'around']);
    expect(wordsOf({ type: 'customerAccepted', by: 'c', noticeVersion: '1' } as never)).toEqual([]);
  });
});
