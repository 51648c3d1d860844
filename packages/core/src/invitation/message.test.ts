import { describe, expect, it } from 'vitest';
import { bookingTemplates } from '../booking/booking-message.ts';
import { languages } from '../language.ts';
import {
  defaultTemplates,
  fillTemplate,
  messageFields,
  momentInWords,
  readTemplates,
  unknownFields,
} from './message.ts';

const fields = {
  customer: 'Bettina Crole',
  technician: 'Pim Aldersey',
  desk: 'Marrowick Ferries',
  phone: '555-0142',
  purpose: 'Half a barcode',
  link: 'https://help.marrowick.example/join/abc',
  until: 'Friday',
  remark: '',
};
const all = [
  ...Object.entries(defaultTemplates),
  ...Object.entries(bookingTemplates).map(([notice, template]) => [`booking ${notice}`, template] as const),
].flatMap(([kind, template]) => languages.map((language) => ({ kind, language, template: template[language] })));

describe.each(all)('the message “$kind” in $language', ({ kind, template }) => {
  it('names only fields that exist, and is whole when they are filled in', () => {
    expect(unknownFields(template)).toEqual([]);
    const filled = fillTemplate(template, fields);
    expect(`${filled.subject} ${filled.text}`).not.toMatch(/[{}]/);
    expect(filled.text, 'an empty field leaves no empty lines').not.toMatch(/\n{3}/);
    if (kind !== 'booking cancelled') expect(filled.text).toContain(fields.link);
  });

  it('begins each paragraph with a capital, also after the greeting', () => {
    const paragraphs = fillTemplate(template, fields).text.split(/\n\n/);
    for (const paragraph of paragraphs) expect(paragraph, kind).toMatch(/^(\p{Lu}|https:)/u);
  });

  it('has a subject of one line, whatever somebody calls themselves', () => {
    const { subject } = fillTemplate(template, { ...fields, technician: 'Pim\r\nBcc: x@y.example', desk: 'M\nF' });
    expect(subject).not.toMatch(/[\r\n]/);
    expect(subject.length).toBeLessThanOrEqual(200);
  });
});

describe('a desk’s own messages', () => {
  it('take the place of ours one by one, and the rest stays', () => {
    const own = { mail: { no: { subject: 'Hei', text: 'Kom inn: {link}' } } };
    const merged = readTemplates(own);
    expect(merged.mail.no).toEqual(own.mail.no);
    expect(merged.mail.de).toEqual(defaultTemplates.mail.de);
    expect(merged.calendar).toEqual(defaultTemplates.calendar);
  });

  it('are refused with what is wrong: a field nobody knows, no link, or another shape', () => {
    const withText = (text: string) => () => readTemplates({ mail: { en: { subject: '', text } } });
    expect(withText('{link} {password}')).toThrow(/mail, en: there is no field \{password\}/);
    expect(withText('come in')).toThrow(/mail, en: the text needs \{link\}/);
    expect(() => readTemplates({ letter: {} })).toThrow();
    expect(messageFields).toContain('link');
  });
});

it('says moments with their zone, since who reads them may sit elsewhere', () => {
  const atMs = Date.UTC(2027, 2, 29, 7, 30);
  const said = languages.map((language) => momentInWords(atMs, language, 'Europe/Oslo'));
  expect(said[0]).toMatch(/Monday.*29 March.*09:30.*(CEST|GMT\+2)/);
  expect(said[1]).toMatch(/mandag.*29\. mars.*09:30/);
  expect(said[2]).toMatch(/Montag.*29\. März.*09:30/);
});
