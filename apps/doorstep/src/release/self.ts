import { chmodSync, copyFileSync, existsSync, mkdirSync, renameSync, rmdirSync, rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { isSea } from 'node:sea';

/** What the build of a release puts in; a build for development has none. */
export interface Release {
  readonly version: string;
  readonly publisher: string;
  /** Hex, Ed25519: only what this key signed is ever taken as an update. */
  readonly publisherKey: string;
  /** The host of the service that it was made for. */
  readonly madeFor?: string;
}
declare const __PORCH_RELEASE__: Release | undefined;

export const release: Release | undefined = typeof __PORCH_RELEASE__ === 'undefined' ? undefined : __PORCH_RELEASE__;

export const versionWords = release
  ? `${release.version}, published by ${release.publisher} (key ${release.publisherKey.slice(0, 16)}…)`
  : '0.1.0, a build for development that nobody has signed';

/** The program and what comes before its own arguments: itself alone, or Node with the bundle. */
export const ownCommand = (): string[] => (isSea() ? [process.execPath] : [process.execPath, process.argv[1] ?? '']);

/** The file that is this program, when it is one file. */
export const ownFile = (): string | undefined => (isSea() ? process.execPath : undefined);

/**
 * What a downloaded file knows of its session: the service and a token that works once, in its name, as in
 * `doorstep.aHR0cHM6Ly9oZWxwLm1hcnJvd2ljay5leGFtcGxl.kPz…`. Browsers may add to a name; what they add is not ours.
 */
export function sessionInName(file: string): { serviceUrl: string; token: string } | undefined {
  const match = /^doorstep\.([\w-]{8,400})\.([\w-]{43})/i.exec(basename(file));
  if (!match?.[1] || !match[2]) return undefined;
  const serviceUrl = Buffer.from(match[1], 'base64url').toString('utf8');
  return URL.canParse(serviceUrl) && /^https?:$/.test(new URL(serviceUrl).protocol)
    ? { serviceUrl: new URL(serviceUrl).origin, token: match[2] }
    : undefined;
}

const installedFile = (dataHome: string) => join(dataHome, 'zesty-porch', 'doorstep');

/** Puts a copy where it stays, for links and sign-ins to start: a download may be deleted. Hands back the command. */
export function installCopy(dataHome: string): string[] {
  const own = ownFile();
  if (!own) return ownCommand();
  const file = installedFile(dataHome);
  if (own === file) return [file];
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  // Beside it first: the file that is there may be running.
  copyFileSync(own, `${file}.new`);
  chmodSync(`${file}.new`, 0o755);
  renameSync(`${file}.new`, file);
  return [file];
}

/** Takes the copy away; one that runs goes on until it ends. */
export function removeCopy(dataHome: string): void {
  const file = installedFile(dataHome);
  if (!existsSync(file)) return;
  rmSync(file, { force: true });
  rmdirSync(dirname(file));
}
