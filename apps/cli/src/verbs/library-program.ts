import type { Command, Option } from 'commander';

/** What verbs of the desk's library are added with. */
export interface LibraryProgram {
  make(name: string, description: string): Command;
  list(name: string, description: string): Command;
  readonly session: Option;
  language(): Option;
}
