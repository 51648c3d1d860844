import { Option } from 'commander';
import type { LibraryProgram } from './library-program.ts';

const knowledge = () => import('./knowledge.ts');

/** What was before, and what the desk wrote down. */
export function addKnowledgeVerbs({ make, list, session, language }: LibraryProgram): void {
  list('earlier', 'sessions of before with the same customer or at the same device, with what was noted')
    .addOption(session)
    .addHelpText('after', '\nExamples:\n  porch earlier\n  porch earlier -s MF-201 --json')
    .action(async (options) => (await knowledge()).earlier(options));
  list('knowledge', 'knowledge notes: all, those that fit some words, or those that fit a session by its ticket')
    .argument('[words...]')
    .option('-s, --session <id>', 'those that fit this session, by the start of its id or its ticket')
    .option('--topic <topic>', 'of this topic')
    .option('--state <state>', 'reviewed, draft')
    .addOption(new Option('--language <language>').choices(['en', 'nb', 'de']))
    .addHelpText(
      'after',
      '\nExamples:\n  porch knowledge barcode\n  porch knowledge -s MF-201\n  porch knowledge --state draft',
    )
    .action(async (words, options) => (await knowledge()).knowledge(words, options));
  make('note', 'a knowledge note; or say that a draft is right, or take it out of use')
    .argument('<name>')
    .addOption(language())
    .option('--review', 'a draft of somebody else is right: it is in use from now on')
    .option('--withdraw', 'nobody finds it any longer')
    .addHelpText(
      'after',
      '\nExamples:\n  porch note barcode-cut-in-half\n  porch note barcode-cut-in-half --language nb --review',
    )
    .action(async (name, options) => (await knowledge()).note(name, options));
  list('notes-in', 'bring knowledge notes in from files called name.language.md, as drafts')
    .argument('<files...>')
    .addHelpText('after', '\nExample:\n  porch notes-in notes/*.md')
    .action(async (files, options) => (await knowledge()).notesIn(files, options));
  make('notes-out', 'save all knowledge notes that are in use into a folder, a file each')
    .argument('<folder>')
    .addHelpText('after', '\nExample:\n  porch notes-out notes')
    .action(async (folder, options) => (await knowledge()).notesOut(folder, options));
}
