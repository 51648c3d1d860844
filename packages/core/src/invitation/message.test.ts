import { describe, expect, it } from 'vitest';
import { bookingTemplates } from '../booking/booking-message.ts';
import { languages } from '../language.ts';
import { defaultTemplates, fillTemplate } from './message.ts';

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
