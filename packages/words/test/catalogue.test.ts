import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { isMessage, readCatalogue, type Tree } from '../compile/catalogue.ts';

const root = join(import.meta.dirname, '..', '..', '..');
const catalogue = readCatalogue(join(root, 'packages', 'words', 'messages'));
const camel = (name: string) => name.replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase());

const filesIn = (folder: string): string[] =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (['node_modules', 'dist', 'built', 'messages'].includes(name) || name.startsWith('.')) return [];
    return statSync(path).isDirectory() ? filesIn(path) : /\.(ts|vue|mjs)$/.test(name) ? [path] : [];
  });
interface Source {
  readonly names: ReadonlySet<string>;
  readonly texts: ReadonlySet<string>;
}
const all = (text: string, pattern: RegExp) => new Set([...text.matchAll(pattern)].map(([, name = '']) => name));
const sources = ['packages', 'apps', 'scripts']
  .flatMap((folder) => filesIn(join(root, folder)))
  .filter((file) => !/\.test\.ts$|\/test\//.test(file))
  .map((file): Source => {
    const text = readFileSync(file, 'utf8');
    return {
      names: all(text, /([A-Za-z_$][\w$]*)/g),
      texts: all(text, /'([^'\n]+)'/g),
    };
  });

const keysOf = (tree: Tree, at: readonly string[]): (readonly string[])[] =>
  Object.entries(tree).flatMap(([key, node]) => (isMessage(node) ? [[...at, key]] : keysOf(node, [...at, key])));
const english = catalogue.books.flatMap(({ name, sections }) =>
  Object.entries(sections).flatMap(([section, trees]) => keysOf(trees['en'] ?? {}, [name, section])),
);
const textOf = (tree: Tree, path = ''): [string, string][] =>
  Object.entries(tree).flatMap(([key, node]) =>
    isMessage(node) ? [[`${path}${key}`, JSON.stringify(node.content)]] : textOf(node, `${path}${key}.`),
  );

/** Books whose sections are kinds of one thing. */
const isOneOfAList = new Set(['mail', 'refusals', 'settings']);

it('is whole: every language has every message, with the same fields', () => {
  expect(catalogue.faults).toEqual([]);
});

describe('every message', () => {
  it('is used by something', () => {
    const isNamed = (key: string) =>
      /^\d+$/.test(key) || sources.some(({ names, texts }) => names.has(camel(key)) || texts.has(key));
    const isUsed = (path: readonly string[]) => {
      const [parent = '', key = ''] = path.slice(-2);
      // A word of a page is read where its section is; what is one of a list is named somewhere, as its list is.
      if (path.length > 3 || isOneOfAList.has(path[0] ?? '')) return isNamed(parent) && isNamed(key);
      return sources.some(({ names, texts }) => names.has(camel(parent)) && (names.has(camel(key)) || texts.has(key)));
    };
    const unused = english.filter((path) => !isUsed(path));
    expect(unused.map((path) => path.join('/'))).toEqual([]);
  });

  it('is said in another language, not left in English', () => {
    // Names, numbers, signs and short words that are the same in both, apart.
    const literals = (content: string) =>
      [...content.matchAll(/"type":0,"value":"([^"]*)"/g)].map(([, text]) => text).join('');
    const isSentence = (content: string) => literals(content).length > 20;
    for (const { name, sections } of catalogue.books)
      for (const [section, { en = {}, ...others }] of Object.entries(sections)) {
        const said = new Map(textOf(en));
        for (const [tag, tree] of Object.entries(others))
          for (const [key, text] of textOf(tree))
            if (isSentence(text)) expect(text, `${name}/${section}/${tag} ${key}`).not.toBe(said.get(key));
      }
  });
});

/** Every text of a language, wherever it stands in a message. */
const sentences = (tag: string): [string, string][] =>
  catalogue.books.flatMap(({ name, sections }) =>
    Object.entries(sections).flatMap(([section, trees]) =>
      textOf(trees[tag] ?? {}).flatMap(([key, content]) =>
        [...content.matchAll(/"value":"((?:[^"\\]|\\.)*)"/g)].map(([, text = '']): [string, string] => [
          `${name}/${section}/${tag} ${key}`,
          JSON.parse(`"${text}"`) as string,
        ]),
      ),
    ),
  );

it('keeps what customers read short enough for the telephone', () => {
  for (const tag of ['en', 'nb', 'de'])
    for (const [place, text] of sentences(tag).filter(([at]) => at.startsWith('front-door/')))
      for (const sentence of text.split(/[.?!:;] /))
        expect(sentence.split(/\s+/).length, place).toBeLessThanOrEqual(28);
});

it.each([
  ['en', [/\bby themselves\. We do not/i, /front door/i, /\bReceipt\b/, /\bmended\b/, /Nobody waits/i, /grown-up/i]],
  ['en', [/Put it up/i, /arrived whole/i, /^Mail address/i, /words not compared/i, /look whether/i, /take prints/i]],
  ['nb', [/\bgale\b/i, /Ord er nok/i, /hjelpetjenesten/i, /Hva skjer\?/i, /loggens hode/i, /\bmelding om personvern/i]],
  ['de', [/Quittung/i, /Das fühlt sich falsch/i, /behält für Sie/i, /Prüfsumme/i, /\bbittet: /i]],
] as const)('says nothing in %s that was put right before', (tag, wrong) => {
  for (const [place, text] of sentences(tag)) for (const one of wrong) expect(text, place).not.toMatch(one);
});

it('speaks to people in German with a capital after a colon before a whole sentence', () => {
  for (const [place, text] of sentences('de'))
    expect(text, place).not.toMatch(/: (sie|es|niemand|bitte|wir) [a-zäöü]+(t|en|st)\b(?! und)/);
});
