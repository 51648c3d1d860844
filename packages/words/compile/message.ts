import {
  isArgumentElement,
  isLiteralElement,
  isNumberElement,
  isPluralElement,
  isPoundElement,
  isSelectElement,
  isTagElement,
  parse,
  type MessageFormatElement,
} from '@formatjs/icu-messageformat-parser';

/** What a field of a message takes: text, a number, one of the words of a choice, or nothing (a tag around words). */
export type Field = 'text' | 'number' | 'tag' | readonly string[];
export interface Message {
  readonly content: readonly MessageFormatElement[];
  readonly fields: ReadonlyMap<string, Field>;
}

/**
 * Reads one message in ICU syntax. Dates and times are refused: they are told in a reader's language *and* a zone, which
 * a catalogue does not know, and come in as text. A choice without `other` takes its own words and no others.
 */
export function readMessage(text: string): Message {
  if (text !== text.trim() || !text) throw new Error('begins or ends with a space, or is empty');
  let content: readonly MessageFormatElement[];
  try {
    content = parse(text, { requiresOtherClause: false });
  } catch (error) {
    throw new Error(`is no message: ${error instanceof Error ? error.message : String(error)}`, { cause: error });
  }
  const fields = new Map<string, Field>();
  gather(content, fields, false);
  return { content, fields };
}

function gather(content: readonly MessageFormatElement[], fields: Map<string, Field>, isInTag: boolean): void {
  for (const element of content) {
    if (isLiteralElement(element) || isPoundElement(element)) continue;
    const note = (field: Field) => {
      // A tag may be called as a field is: nobody gives it a value.
      const name = field === 'tag' ? `<${element.value}>` : element.value;
      const known = fields.get(name);
      if (known && JSON.stringify(known) !== JSON.stringify(field)) throw new Error(`{${name}} is two things at once`);
      fields.set(name, field);
    };
    if (isArgumentElement(element)) note('text');
    else if (isNumberElement(element)) note('number');
    else if (isPluralElement(element)) {
      if (!element.options['other']) throw new Error(`{${element.value}} has no “other”`);
      note('number');
    } else if (isSelectElement(element)) {
      const words = Object.keys(element.options).sort();
      note(words.includes('other') ? 'text' : words);
    } else if (isTagElement(element)) {
      if (isInTag) throw new Error(`<${element.value}> stands inside another`);
      note('tag');
    } else throw new Error(`{${element.value}} is a date or a time: give it as text`);
    if (isTagElement(element)) gather(element.children, fields, true);
    if (isPluralElement(element) || isSelectElement(element))
      for (const option of Object.values(element.options)) gather(option.value, fields, isInTag);
  }
}

/** Whether two languages take the same fields, each of the same kind. */
export function sameFields(a: Message, b: Message): boolean {
  const told = (message: Message) => JSON.stringify([...message.fields].sort(([x], [y]) => (x < y ? -1 : 1)));
  return told(a) === told(b);
}
