import { forTerminal, readHidden, tableOf } from '@porch/client/terminal';
import { Option } from 'commander';
import { userInfo } from 'node:os';
import type { DataSource } from 'typeorm';
import { readConfig } from '../config.ts';
import { terminalWaits } from '../db/data-source.ts';
import { makeRecords } from '../modules/records.ts';
import { AdminError } from './admin-error.ts';

/** Documented in docs/cli.md; scripts branch on these. */
export const exitCodes = { done: 0, refused: 1, wrongCall: 2, unreachable: 4 } as const;

export interface Common {
  readonly json?: boolean;
}
export const json = new Option('--json', 'print the value as JSON');
export const fromStdin = new Option('--password-stdin', 'read the password from standard input');

export const printLine = (text: string): void =>
  void process.stdout.write(`${text.split('\n').map(forTerminal).join('\n')}\n`);
export function printTable(headings: readonly string[], rows: readonly (readonly string[])[]): void {
  for (const line of tableOf(headings, rows)) process.stdout.write(`${line}\n`);
}
export function show(value: unknown, options: Common, inWords: () => void): void {
  if (options.json) printLine(JSON.stringify(value, undefined, 2));
  else inWords();
}

/** A list, the same in every command. */
export const showList = <T>(items: readonly T[], options: Common, inWords: () => void): void =>
  show({ items }, options, inWords);

export async function withRecords<T>(work: (records: DataSource) => Promise<T>): Promise<T> {
  const records = makeRecords(readConfig(process.env).databaseUrl, () => undefined, terminalWaits);
  await records.initialize();
  try {
    return await work(records);
  } finally {
    await records.destroy();
  }
}

/** From standard input or the terminal, never from the command line: there anybody on this machine reads it. */
export async function readPassword(isFromStdin: boolean): Promise<string> {
  const password = await readHidden('Password: ', isFromStdin);
  if (password === undefined) throw new AdminError('there is no terminal to ask at; use --password-stdin');
  return password;
}

/** Who does it, as this machine knows them: it is kept with what they change. */
export function whoAmI(): string {
  try {
    return userInfo().username;
  } catch {
    // An account without a name, in a container for one.
    return `account ${process.getuid?.() ?? ''}`;
  }
}

export const listOf = (typed: string): string[] =>
  typed
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean);
