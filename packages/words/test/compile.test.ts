import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { buildWords } from '../compile/build.ts';
import { readCatalogue } from '../compile/catalogue.ts';

/* A catalogue of two languages in a folder of its own. */
let folder: string;
const put = (path: string, value: unknown) => {
  const file = join(folder, 'messages', path);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, typeof value === 'string' ? value : JSON.stringify(value));
};
const faults = () => readCatalogue(join(folder, 'messages')).faults;

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'porch-words-'));
  put('languages.json', {
    en: { tag: 'en', locale: 'en-GB', name: 'English' },
    no: { tag: 'nb', locale: 'nb-NO', name: 'Norsk' },
  });
  put('page/top/en.json', { hello: 'Hello {name}', list: { none: 'Nobody' } });
  put('page/top/nb.json', { hello: 'Hei {name}', list: { none: 'Ingen' } });
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe('a catalogue', () => {
  it('that is whole has no faults, and becomes typed words', () => {
    expect(faults()).toEqual([]);
    buildWords(join(folder, 'messages'), join(folder, 'built'));
    const built = (path: string) => readFileSync(join(folder, 'built', path), 'utf8');
    expect(built('page/shape.ts')).toContain('readonly hello: (p: { readonly name: string }) => string');
    expect(built('page/nb.ts')).toContain('hello: (p) => `Hei ${p.name}`');
    expect(built('languages.ts')).toContain("['en', 'no'] as const");
  });

  it.each([
    ['a key that a language lacks', 'page/top/nb.json', { hello: 'Hei {name}' }, 'page/top/nb.json, list: is missing'],
    [
      'a key that only the other has',
      'page/top/nb.json',
      { hello: 'Hei {name}', list: { none: 'Ingen' }, more: 'Mer' },
      'page/top/nb.json, more: the first language does not have it',
    ],
    [
      'fields that differ',
      'page/top/nb.json',
      { hello: 'Hei {navn}', list: { none: 'Ingen' } },
      'page/top/nb.json, hello: has other fields',
    ],
    [
      'a broken message',
      'page/top/nb.json',
      { hello: 'Hei {name', list: { none: 'Ingen' } },
      'page/top/nb.json, hello: is no message: EXPECT_ARGUMENT_CLOSING_BRACE',
    ],
    [
      'a plural without what stands for the rest',
      'page/top/en.json',
      { hello: 'Hello {name, plural, one {you}}', list: { none: 'Nobody' } },
      'page/top/en.json, hello: {name} has no “other”',
    ],
    [
      'a date, whose zone nobody knows',
      'page/top/en.json',
      { hello: 'Hello {name, date}', list: { none: 'Nobody' } },
      'page/top/en.json, hello: {name} is a date or a time: give it as text',
    ],
    [
      'half a sentence that would be glued',
      'page/top/en.json',
      { hello: 'Hello {name}', list: { none: ', nobody ' } },
      'page/top/en.json, list.none: begins or ends with a space, or is empty',
    ],
    [
      'another form',
      'page/top/nb.json',
      { hello: 'Hei {name}', list: 'Ingen' },
      'page/top/nb.json, list: is of another form',
    ],
    ['no JSON at all', 'page/top/nb.json', '{ "hello": ', 'page/top/nb.json: Unexpected end of JSON input'],
  ])('says %s, with file and key', (_what, path, value, fault) => {
    put(path, value);
    expect(faults()).toContain(fault);
  });

  it('is not built while there is a fault, and names them all', () => {
    put('page/top/nb.json', { hello: 'Hei {navn' });
    expect(() => buildWords(join(folder, 'messages'), join(folder, 'built'))).toThrow(
      /nb\.json, hello: [\s\S]*nb\.json, list: is missing/,
    );
  });

  it('says which file of a language is not there', () => {
    put('page/side/en.json', { a: 'A' });
    expect(faults()).toContain('page/side/nb.json: there is no such file');
  });
});
