import { addKnowledgeVerbs } from './knowledge-cli.ts';
import type { LibraryProgram } from './library-program.ts';
import { addRunbookVerbs } from './runbook-cli.ts';

/** What the desk wrote down: what it knows of faults, and what it prepared to be run. */
export function addLibraryVerbs(program: LibraryProgram): void {
  addKnowledgeVerbs(program);
  addRunbookVerbs(program);
}
