import { languageOfTag, languages, languageTags } from '@porch/core';
import { KnowledgeNoteBody, type ImportedKnowledgeNote, type KnowledgeNoteFile } from '@porch/wire';
import { parse, stringify } from 'yaml';
import { z } from 'zod';

/**
 * A knowledge note as a file, so that notes can be kept under version control: its name is `name.language.md`; front matter
 * in YAML (https://yaml.org/spec/1.2.2) between two lines of three hyphens says title, topic and labels; the rest is Markdown.
 */
const FrontMatter = z.strictObject({
  title: KnowledgeNoteBody.shape.title,
  topic: KnowledgeNoteBody.shape.topic,
  labels: KnowledgeNoteBody.shape.labels,
});
const parts = /^\uFEFF?---\r?\n(?<front>[\s\S]*?)\r?\n---\r?\n(?<text>[\s\S]*)$/;
const fileName = new RegExp(
  `(?:^|[\\\\/])(?<name>[^\\\\/]+)\\.(?<tag>${languages.map((one) => languageTags[one]).join('|')})\\.md$`,
);

type Refused = NonNullable<ImportedKnowledgeNote['why']>;

/** What a file says, or which part of it is wrong. */
export function readNoteFile(file: KnowledgeNoteFile): KnowledgeNoteBody | Refused {
  const called = fileName.exec(file.name)?.groups;
  const name = KnowledgeNoteBody.shape.name.safeParse(called?.['name']);
  const language = languageOfTag(called?.['tag'] ?? '');
  if (!name.success || language === undefined) return 'name';
  const found = parts.exec(file.text)?.groups;
  const front = FrontMatter.safeParse(readYaml(found?.['front'] ?? ''));
  if (!front.success) return 'front-matter';
  const text = KnowledgeNoteBody.shape.text.safeParse(found?.['text']);
  if (!text.success) return 'text';
  return { ...front.data, name: name.data, language, text: text.data };
}

/** Plain data alone: no tags of its own, no alias that makes much of little. */
function readYaml(text: string): unknown {
  try {
    return parse(text, { schema: 'core', maxAliasCount: 0, logLevel: 'silent' });
  } catch {
    return undefined;
  }
}

export function writeNoteFile(note: KnowledgeNoteBody): KnowledgeNoteFile {
  const { name, language, title, topic, labels, text } = note;
  const front = stringify({ title, ...(topic === undefined ? {} : { topic }), ...(labels.length ? { labels } : {}) });
  return { name: `${name}.${languageTags[language]}.md`, text: `---\n${front}---\n\n${text}\n` };
}
