import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { readMessage, sameFields, type Message } from './message.ts';

/** One language as the catalogue has it: its own folder-wide name, and how standards and people call it. */
export interface LanguageRow {
  readonly tag: string;
  readonly locale: string;
  readonly name: string;
}
/** Keys in the order of the first language; a value is a message, or more keys. */
export interface Tree {
  readonly [key: string]: Message | Tree;
}
/** What is loaded together: each section of it in each language, by the language's tag. */
export interface Book {
  readonly name: string;
  readonly sections: Readonly<Record<string, Readonly<Record<string, Tree>>>>;
}
export interface Catalogue {
  readonly languages: Readonly<Record<string, LanguageRow>>;
  readonly books: readonly Book[];
  /** Each with its file and key; nothing is built while there is one. */
  readonly faults: readonly string[];
}

export const isMessage = (node: Message | Tree): node is Message => Array.isArray(node['content']);

const foldersIn = (folder: string): string[] =>
  readdirSync(folder)
    .filter((name) => statSync(join(folder, name)).isDirectory())
    .sort();

/** Reads `<folder>/<book>/<section>/<tag>.json` for every language, and holds the languages to each other. */
export function readCatalogue(folder: string): Catalogue {
  const languages = JSON.parse(readFileSync(join(folder, 'languages.json'), 'utf8')) as Record<string, LanguageRow>;
  const tags = Object.values(languages).map(({ tag }) => tag);
  const faults: string[] = [];
  const books = foldersIn(folder).map((name): Book => {
    const sections = foldersIn(join(folder, name)).map((section) => {
      const place = `${name}/${section}`;
      const trees = tags.map((tag) => [tag, readSection(folder, `${place}/${tag}.json`, faults)] as const);
      const [first, ...others] = trees;
      for (const [tag, tree] of others) compare(first?.[1] ?? {}, tree, `${place}/${tag}.json`, '', faults);
      return [section, Object.fromEntries(trees)] as const;
    });
    return { name, sections: Object.fromEntries(sections) };
  });
  return { languages, books, faults };
}

function readSection(folder: string, path: string, faults: string[]): Tree {
  if (!existsSync(join(folder, path))) {
    faults.push(`${path}: there is no such file`);
    return {};
  }
  try {
    return readTree(JSON.parse(readFileSync(join(folder, path), 'utf8')), path, '', faults);
  } catch (error) {
    faults.push(`${path}: ${error instanceof Error ? error.message : String(error)}`);
    return {};
  }
}

function readTree(value: unknown, path: string, at: string, faults: string[]): Tree {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) {
    faults.push(`${path}, ${at || 'the whole'}: keys with words are expected here`);
    return {};
  }
  const read = Object.entries(value).flatMap(([key, child]): [string, Message | Tree][] => {
    const here = at ? `${at}.${key}` : key;
    // A text of several lines is a list of them.
    const text = Array.isArray(child) && child.every((line) => typeof line === 'string') ? child.join('\n') : child;
    if (typeof text !== 'string') return [[key, readTree(text, path, here, faults)]];
    try {
      return [[key, readMessage(text)]];
    } catch (error) {
      faults.push(`${path}, ${here}: ${error instanceof Error ? error.message : String(error)}`);
      return [];
    }
  });
  return Object.fromEntries(read);
}

function compare(first: Tree, other: Tree, path: string, at: string, faults: string[]): void {
  for (const [key, node] of Object.entries(first)) {
    const [here, there] = [at ? `${at}.${key}` : key, other[key]];
    if (!there) faults.push(`${path}, ${here}: is missing`);
    else if (isMessage(node) !== isMessage(there)) faults.push(`${path}, ${here}: is of another form`);
    else if (!isMessage(node)) compare(node, there as Tree, path, here, faults);
    else if (!sameFields(node, there as Message)) faults.push(`${path}, ${here}: has other fields`);
  }
  for (const key of Object.keys(other))
    if (!first[key]) faults.push(`${path}, ${at ? `${at}.${key}` : key}: the first language does not have it`);
}
