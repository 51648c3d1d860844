import { languageOfTag, languages, languageTags } from '@porch/core';
import { KnowledgeNoteBody, type ImportedKnowledgeNote, type KnowledgeNoteFile } from '@porch/wire';
import { stringify } from 'yaml';
import { z } from 'zod';
import { readFrontMatter } from '../../front-matter.ts';

/**
 * A knowledge note as a file, so that notes can be kept under version control: its name is `name.language.md`; front matter
 * in YAML (https://yaml.org/spec/1.2.2) between two lines of three hyphens says title, topic and labels; the rest is Markdown.
 */
const FrontMatter = z.strictObject({
  title: KnowledgeNoteBody.shape.title,
  topic: KnowledgeNoteBody.shape.topic,
  labels: KnowledgeNoteBody.shape.labels,
});
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
  const found = readFrontMatter(file.text);
  const front = FrontMatter.safeParse(found?.front);
  if (!front.success) return 'front-matter';
  const text = KnowledgeNoteBody.shape.text.safeParse(found?.text);
  if (!text.success) return 'text';
  return { ...front.data, name: name.data, language, text: text.data };
}

export function writeNoteFile(note: KnowledgeNoteBody): KnowledgeNoteFile {
  const { name, language, title, topic, labels, text } = note;
  const front = stringify({ title, ...(topic === undefined ? {} : { topic }), ...(labels.length ? { labels } : {}) });
  return { name: `${name}.${languageTags[language]}.md`, text: `---\n${front}---\n\n${text}\n` };
}
