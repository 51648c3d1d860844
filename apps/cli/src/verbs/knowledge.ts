import { languageOfTag, languageTags, purposeInWords } from '@porch/core';
import type { EarlierSession, ImportedKnowledgeNote, KnowledgeNoteView } from '@porch/wire';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { CliError, exitCodes } from '../exit-codes.ts';
import { printLine, printList, type Column } from '../print.ts';
import { book, desk, named, results, speech, wrong } from '../words.ts';
import { findSession, rest, show, type CommonOptions } from './common.ts';

/** Sessions of before that have to do with one of now. */
export async function earlier(options: CommonOptions): Promise<void> {
  const items = await rest().earlierSessions(await findSession(options.session));
  const columns: Column<EarlierSession>[] = [
    ['SESSION', ({ session }) => session.id.slice(0, 8)],
    ['WHEN', ({ session }) => speech.exactlyHere(session.preparedAtMs)],
    ['TECHNICIAN', ({ session }) => session.technicianName],
    ['SAME', ({ shares }) => desk.lookUp.shares[shares.length > 1 ? 'both' : (shares[0] ?? 'customer')]],
    [
      'OUTCOME',
      ({ session }) =>
        session.outcome ? desk.common.outcomes[session.outcome] : named(desk.common.phases, session.phase),
    ],
    ['ABOUT', aboutOf],
  ];
  if (options.json || options.csv || !items.length) {
    printList({ items }, options, columns, results.noEarlier);
    return;
  }
  // What was noted is what somebody wants to read: a table would cut it short.
  for (const one of items) {
    printLine(
      columns
        .slice(0, -1)
        .map(([, of]) => of(one))
        .join('  '),
    );
    printLine(`  ${aboutOf(one)}`);
  }
}
const aboutOf = ({ session, note }: EarlierSession): string => note ?? purposeInWords(session.purpose, book);

const columns: Column<KnowledgeNoteView>[] = [
  ['NAME', ({ name }) => name],
  ['LANGUAGE', ({ language }) => languageTags[language]],
  ['STATE', ({ state }) => desk.knowledge.states[state]],
  ['TOPIC', ({ topic }) => topic ?? ''],
  ['TITLE', ({ title }) => title],
];

export async function knowledge(
  words: string[],
  options: CommonOptions & { topic?: string; state?: string; language?: string },
): Promise<void> {
  if (options.session !== undefined) {
    const items = await rest().sessionKnowledge(await findSession(options.session));
    printList({ items }, options, columns, results.noNotes);
    return;
  }
  const language = languageOfTag(options.language ?? '');
  const page = await rest().knowledgeNotes({
    limit: 200,
    ...(words.length ? { words: words.join(' ') } : {}),
    ...(options.topic ? { topic: options.topic } : {}),
    ...(options.state ? { state: options.state as KnowledgeNoteView['state'] } : {}),
    ...(language ? { language } : {}),
  });
  printList(page, options, columns, results.noNotes);
}

/** The version of a note that is meant: what is in use to read, a draft to review, whichever there is to withdraw. */
async function find(name: string, tag: string, isForReview: boolean): Promise<KnowledgeNoteView> {
  const language = languageOfTag(tag);
  const { items } = await rest().knowledgeNotes({ name, ...(language ? { language } : {}) });
  const wanted = isForReview ? 'draft' : 'reviewed';
  const note = items.find(({ state }) => state === wanted) ?? (isForReview ? undefined : items[0]);
  if (!note) throw new CliError(wrong.noNote({ name }), exitCodes.noSession);
  return note;
}

export async function note(
  name: string,
  options: CommonOptions & { language: string; review?: true; withdraw?: true },
): Promise<void> {
  const found = await find(name, options.language, options.review === true);
  const { title } = found;
  if (options.review) {
    const reviewed = await rest().reviewKnowledgeNote(found.id);
    show(reviewed, options, () => printLine(results.noteReviewed({ title })));
  } else if (options.withdraw) {
    await rest().withdrawKnowledgeNote(found.id);
    show({ withdrawn: found.id }, options, () => printLine(results.noteWithdrawn({ title })));
  } else {
    const whole = await rest().knowledgeNote(found.id);
    show(whole, options, () => {
      printLine(title);
      printLine(desk.knowledge.states[whole.state]);
      printLine(`\n${whole.text}`);
    });
  }
}

const resultOf = ({ result, why }: ImportedKnowledgeNote): string => (why ? desk.knowledge.whyRefused[why] : result);

function readText(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch (cause) {
    throw new CliError(wrong.noFile({ file }), exitCodes.wrongCall, { cause });
  }
}

export async function notesIn(files: string[], options: CommonOptions): Promise<void> {
  const items = await rest().importKnowledgeNotes(
    files.map((file) => ({ name: basename(file), text: readText(file) })),
  );
  printList(
    { items },
    options,
    [
      ['FILE', ({ file }) => file],
      ['RESULT', resultOf],
    ],
    results.noNotes,
  );
  if (items.some(({ result }) => result === 'refused')) process.exitCode = exitCodes.refused;
}

export async function notesOut(folder: string, options: CommonOptions): Promise<void> {
  const files = await rest().exportKnowledgeNotes();
  mkdirSync(folder, { recursive: true });
  // A service may say anything: only the last part of a name is taken for one.
  for (const { name, text } of files) writeFileSync(join(folder, basename(name)), text);
  show({ files: files.map(({ name }) => name) }, options, () =>
    printLine(results.notesSaved({ count: files.length, folder })),
  );
}
