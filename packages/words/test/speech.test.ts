import { describe, expect, it } from 'vitest';
import { firstSpoken, languageOf, languages, speechOf, spokenLanguage } from '../src/index.ts';
import { console as consoleWords } from '../src/built/console/all.ts';
import { host } from '../src/built/host/all.ts';
import { ledger } from '../src/built/ledger/all.ts';

describe('counts', () => {
  it('take the form of their language', () => {
    const days = (n: number) => languages.map((language) => host[language].standing.days({ days: n }));
    expect(days(1)).toEqual(['1 day', '1 dag', '1 Tag']);
    expect(days(3)).toEqual(['3 days', '3 dager', '3 Tage']);
    const chats = (count: number) => ledger.en.kernel.drafts.chats({ count });
    expect(chats(0)).toBe('Nothing was said in the chat.');
    expect([chats(1), chats(1200)]).toEqual(['1 chat message is attached.', '1,200 chat messages are attached.']);
    expect(ledger.de.kernel.drafts.chats({ count: 1200 })).toContain('1.200');
  });
});

describe('a sentence with pieces', () => {
  it('is the same words in order, whatever they are drawn in', () => {
    const said = consoleWords.de.porch.wrapsUp({ time: '0:42' });
    expect(said.map(({ text }) => text).join('')).toBe('Nachbereitung, noch 0:42. Ihnen wird niemand angeboten.');
    expect(said.filter(({ tag }) => tag).map(({ tag, text }) => [tag, text])).toEqual([
      ['b', 'Nachbereitung'],
      ['time', '0:42'],
    ]);
  });
});

describe('speech', () => {
  const atMs = Date.UTC(2026, 10, 24, 9, 30, 5);
  it('tells moments in a zone, and numbers as a language writes them', () => {
    const oslo = languages.map((language) => speechOf(language, 'Europe/Oslo'));
    expect(oslo.map((s) => s.clock(atMs))).toEqual(['10:30', '10:30', '10:30']);
    expect(oslo.map((s) => s.exactly(atMs))).toEqual([
      expect.stringMatching(/Tuesday.*24 November.*10:30/),
      expect.stringMatching(/tirsdag.*24\. november.*10:30/),
      expect.stringMatching(/Dienstag.*24\. November.*10:30/),
    ]);
    expect(languages.map((language) => speechOf(language).bytes(1_572_864))).toEqual(['1.5 MB', '1,5 MB', '1,5 MB']);
    expect(speechOf('en').bytes(900)).toBe('900 B');
  });
  it('says lists and how far away something is', () => {
    expect(languages.map((language) => speechOf(language).list(['a', 'b', 'c']))).toEqual([
      'a, b and c',
      'a, b og c',
      'a, b und c',
    ]);
    expect(languages.map((language) => speechOf(language).fromNow(-240_000))).toEqual([
      '4 minutes ago',
      'for 4 minutter siden',
      'vor 4 Minuten',
    ]);
    expect(speechOf('no').capital('økten')).toBe('Økten');
  });
});

describe('which language is spoken', () => {
  it('is the first that we have, by whatever name it is asked for', () => {
    expect(firstSpoken(['fr-FR', 'nn-NO', 'de'])).toBe('no');
    expect(firstSpoken(['fr'])).toBe('en');
    expect([spokenLanguage('nb-NO'), spokenLanguage('no'), spokenLanguage('de_AT'), spokenLanguage('')]).toEqual([
      'no',
      'no',
      'de',
      undefined,
    ]);
  });
  it('is told by the account, in the order of POSIX', () => {
    expect(languageOf({ LANG: 'en_GB.UTF-8', LC_ALL: 'nb_NO.UTF-8' })).toBe('no');
    expect(languageOf({ LANG: 'de_DE.UTF-8', LC_ALL: '' })).toBe('de');
    expect(languageOf({})).toBe('en');
  });
});
