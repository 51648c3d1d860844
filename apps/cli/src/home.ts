import { mkdirSync, readFileSync, rmSync, writeFileSync, renameSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { z } from 'zod';
import { CliError, exitCodes } from './exit-codes.ts';

const Credentials = z.strictObject({ url: z.url(), token: z.string(), name: z.string() });
export type Credentials = z.infer<typeof Credentials>;
const Heads = z.record(z.string(), z.strictObject({ seq: z.number(), hash: z.string() }));

/** Where this technician's terminal keeps its sign-in, its open sessions and the ledger heads it has seen. */
export const homeFolder = (): string => process.env['PORCH_HOME'] ?? join(homedir(), '.local', 'state', 'porch');
const credentialsFile = () => join(homeFolder(), 'sign-in.json');
const headsFile = () => join(homeFolder(), 'heads.json');
/** Short, since the path of a socket may have no more than about a hundred characters. */
export const socketFile = (sessionId: string): string => join(homeFolder(), `${sessionId.slice(0, 8)}.sock`);

export function writePrivately(file: string, text: string): void {
  mkdirSync(homeFolder(), { recursive: true, mode: 0o700 });
  writeFileSync(`${file}.new`, text, { mode: 0o600 });
  renameSync(`${file}.new`, file);
}

export function readCredentials(): Credentials {
  try {
    return Credentials.parse(JSON.parse(readFileSync(credentialsFile(), 'utf8')));
  } catch {
    throw new CliError(
      'Nobody is signed in here. Sign in first: porch sign-in --service URL --email ADDRESS',
      exitCodes.signInNeeded,
    );
  }
}

export const writeCredentials = (credentials: Credentials): void =>
  writePrivately(credentialsFile(), JSON.stringify(credentials));
export const forgetCredentials = (): void => rmSync(credentialsFile(), { force: true });

/** Heads of ledgers this terminal has seen with its own eyes: what a ledger is verified against. */
export function readHeads(): z.infer<typeof Heads> {
  try {
    return Heads.parse(JSON.parse(readFileSync(headsFile(), 'utf8')));
  } catch {
    return {}; // None kept yet.
  }
}

export function keepHead(sessionId: string, head: { seq: number; hash: string }): void {
  const heads = readHeads();
  if ((heads[sessionId]?.seq ?? 0) < head.seq)
    writePrivately(headsFile(), JSON.stringify({ ...heads, [sessionId]: head }));
}
