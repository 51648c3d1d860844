import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync, renameSync } from 'node:fs';
import { homedir } from 'node:os';
import { basename, join } from 'node:path';
import { z } from 'zod';
import { CliError, exitCodes } from './exit-codes.ts';
import { wrong } from './words.ts';

const Credentials = z.strictObject({ url: z.url(), token: z.string(), name: z.string() });
export type Credentials = z.infer<typeof Credentials>;
const Heads = z.record(z.string(), z.strictObject({ seq: z.number(), hash: z.string() }));

/** Where this technician's terminal keeps its sign-in, its open sessions and the ledger heads it has seen. */
export function homeFolder(): string {
  const profile = process.env['PORCH_PROFILE'];
  if (!profile) return everything();
  // It is part of a path, and of that of a socket, which may not be long.
  if (!PROFILE.test(profile))
    throw new CliError(
      `“${profile}” is no name of a profile: small letters, digits and hyphens, ${MOST_PROFILE_CHARACTERS} at most.`,
      exitCodes.wrongCall,
    );
  return join(profilesFolder(), profile);
}
const everything = (): string => process.env['PORCH_HOME'] ?? join(homedir(), '.local', 'state', 'porch');
const profilesFolder = () => join(everything(), 'profiles');
const MOST_PROFILE_CHARACTERS = 20;
const PROFILE = /^[a-z0-9][a-z0-9-]{0,19}$/;

/** Beside the one without a name. */
export const profileNames = (): string[] =>
  existsSync(profilesFolder()) ? readdirSync(profilesFolder()).filter((name) => PROFILE.test(name)) : [];
/** The sockets of sessions that are kept open here. */
export const socketsHere = (): string[] =>
  existsSync(homeFolder())
    ? readdirSync(homeFolder())
        .filter((name) => name.endsWith('.sock'))
        .map((name) => join(homeFolder(), name))
    : [];
/** The start of a session's id, as its socket has it. */
export const sessionOfSocket = (path: string): string => basename(path, '.sock');
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
  const file = credentialsFile();
  try {
    return Credentials.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch {
    throw new CliError(wrong.notSignedIn, exitCodes.signInNeeded);
  }
}

/** Those of a profile, or of the one without a name; undefined: nobody is signed in there. */
export function credentialsOf(profile: string | undefined): Credentials | undefined {
  const file = join(profile === undefined ? everything() : join(profilesFolder(), profile), 'sign-in.json');
  try {
    return Credentials.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch {
    return undefined; // Signed out, or never in.
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
