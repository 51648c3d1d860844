import {
  isArgumentElement,
  isLiteralElement,
  isNumberElement,
  isPluralElement,
  isPoundElement,
  isSelectElement,
  isTagElement,
  type MessageFormatElement,
} from '@formatjs/icu-messageformat-parser';
import { isMessage, type Book, type Catalogue, type LanguageRow, type Tree } from './catalogue.ts';
import type { Field, Message } from './message.ts';

/* Makes TypeScript of the catalogue: a message without fields is a string, one with fields a function, one with tags a
 * row of pieces. Nothing is parsed when a program runs. */

const HEADER = '// Made of packages/words/messages by npm run words.\n';
const plain = (name: string) => (/^[A-Za-z_$][\w$]*$/.test(name) ? name : JSON.stringify(name));
const access = (name: string) => (/^[A-Za-z_$][\w$]*$/.test(name) ? `p.${name}` : `p[${JSON.stringify(name)}]`);
const camel = (name: string) => name.replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase());
export const typeName = (book: string): string => {
  const name = camel(book);
  return `${name.charAt(0).toUpperCase()}${name.slice(1)}Words`;
};
const escaped = (text: string) => text.replace(/[`\\]/g, '\\$&').replace(/\$\{/g, '\\${');

/** The inside of a template literal. */
function inside(content: readonly MessageFormatElement[], locale: string, counted?: string): string {
  return content
    .map((element) => {
      if (isLiteralElement(element)) return escaped(element.value);
      if (isArgumentElement(element)) return `\${${access(element.value)}}`;
      if (isPoundElement(element)) return `\${number('${locale}', ${counted ?? '0'})}`;
      if (isNumberElement(element)) return `\${number('${locale}', ${access(element.value)})}`;
      if (isTagElement(element)) throw new Error(`<${element.value}> stands inside a choice`);
      if (!isPluralElement(element) && !isSelectElement(element)) throw new Error('a date or a time');
      const value = access(element.value);
      const options = Object.entries(element.options).map(([key, option]) => {
        const text = inside(option.value, locale, isPluralElement(element) ? value : counted);
        return `${JSON.stringify(key)}: \`${text}\``;
      });
      const table = `{ ${options.join(', ')} }`;
      return isPluralElement(element)
        ? `\${plural('${locale}', ${value}, ${table})}`
        : `\${choose(${value}, ${table})}`;
    })
    .join('');
}

function valueOf({ content, fields }: Message, locale: string): string {
  const kinds = [...fields.values()];
  const piece = (element: MessageFormatElement) =>
    isTagElement(element)
      ? `{ tag: '${element.value}', text: \`${inside(element.children, locale)}\` }`
      : `{ text: \`${inside([element], locale)}\` }`;
  const value = kinds.includes('tag') ? `[${content.map(piece).join(', ')}]` : `\`${inside(content, locale)}\``;
  return kinds.some((kind) => kind !== 'tag') ? `(p) => ${value}` : value;
}

function typeOf({ fields }: Message): string {
  const named = [...fields].filter(([, field]) => field !== 'tag');
  const tags = [...fields].filter(([, field]) => field === 'tag').map(([name]) => `'${name.slice(1, -1)}'`);
  const kind = (field: Field) =>
    field === 'text'
      ? 'string'
      : field === 'number'
        ? 'number'
        : (field as readonly string[]).map((w) => `'${w}'`).join(' | ');
  const result = tags.length ? `readonly Piece<${tags.join(' | ')}>[]` : 'string';
  if (!named.length) return result;
  const list = named.map(([name, field]) => `readonly ${plain(name)}: ${kind(field)}`).join('; ');
  return `(p: { ${list} }) => ${result}`;
}

const emitTree = (tree: Tree, one: (message: Message) => string, mark: string): string =>
  `{ ${Object.entries(tree)
    .map(
      ([key, node]) =>
        `${mark === ';' ? 'readonly ' : ''}${plain(key)}: ${isMessage(node) ? one(node) : emitTree(node, one, mark)}`,
    )
    .join(`${mark} `)} }`;

const importing = (names: string, path: string, isType = false): string =>
  ['import', ...(isType ? ['type'] : []), `{ ${names} }`, 'from', `'${path}.ts';\n`].join(' ');

/** What of the runtime these call. */
function runtimeOf(words: readonly string[]): string {
  const used = ['choose', 'number', 'plural'].filter((f) => words.some((w) => w.includes(`\${${f}(`)));
  return used.length ? importing(used.join(', '), '../../runtime') : '';
}

function emitShape({ name, sections }: Book, firstTag: string): string {
  const rows = Object.entries(sections).map(
    ([section, trees]) => `  readonly ${camel(section)}: ${emitTree(trees[firstTag] ?? {}, typeOf, ';')};\n`,
  );
  const imports = importing('Piece', '../../pieces', true) + importing('Language', '../languages', true);
  return `${HEADER}${imports}export type { Piece };\nexport interface ${typeName(name)} {\n  readonly language: Language;\n${rows.join('')}}\n`;
}

function emitWords({ name, sections }: Book, code: string, { tag, locale }: LanguageRow): string {
  const type = typeName(name);
  const rows = Object.entries(sections).map(
    ([section, trees]) => `  ${camel(section)}: ${emitTree(trees[tag] ?? {}, (m) => valueOf(m, locale), ',')},\n`,
  );
  return `${HEADER}${runtimeOf(rows)}${importing(type, './shape', true)}export const words: ${type} = {\n  language: '${code}',\n${rows.join('')}};\n`;
}

function emitBook(book: Book, languages: Catalogue['languages']): [string, string][] {
  const type = typeName(book.name);
  const rows = Object.entries(languages);
  const types = `${importing(type, './shape', true)}${importing('Language', '../languages', true)}export type { ${type} };\n`;
  const codes = rows.map(([code]) => code).join(', ');
  const books = rows.map(([code, { tag }]) => importing(`words as ${code}`, `./${tag}`)).join('');
  const all = `${HEADER}${books}${types}export const ${camel(book.name)}: Readonly<Record<Language, ${type}>> = { ${codes} };\n`;
  const loads = rows.map(([code, { tag }]) => `  ${code}: () => import(${JSON.stringify(`./${tag}.ts`)}),\n`).join('');
  const lazily = `${HEADER}${types}const books: Readonly<Record<Language, () => Promise<{ words: ${type} }>>> = {
${loads}};
/** Fetches the words of one language. */
export const load${type} = async (language: Language): Promise<${type}> => (await books[language]()).words;\n`;
  return [
    [`${book.name}/shape.ts`, emitShape(book, rows[0]?.[1].tag ?? '')],
    ...rows.map(([code, row]): [string, string] => [`${book.name}/${row.tag}.ts`, emitWords(book, code, row)]),
    [`${book.name}/all.ts`, all],
    [`${book.name}/lazily.ts`, lazily],
  ];
}

/** Files by their path below the folder of what is built. */
export function emitCatalogue({ books, languages }: Catalogue): ReadonlyMap<string, string> {
  const table = (of: 'tag' | 'locale' | 'name') =>
    `{ ${Object.entries(languages)
      .map(([code, row]) => `${code}: ${JSON.stringify(row[of])}`)
      .join(', ')} }`;
  const codes = Object.keys(languages).map((code) => `'${code}'`);
  return new Map([
    [
      'languages.ts',
      `${HEADER}/** As ledgers name languages. */
export const languages = [${codes.join(', ')}] as const;
export type Language = (typeof languages)[number];
export const languageTags: Readonly<Record<Language, string>> = ${table('tag')};
export const locales: Readonly<Record<Language, string>> = ${table('locale')};
export const languageNames: Readonly<Record<Language, string>> = ${table('name')};\n`,
    ],
    ...books.flatMap((book) => emitBook(book, languages)),
  ]);
}
