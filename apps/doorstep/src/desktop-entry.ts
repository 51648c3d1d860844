import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** Links that open Doorstep: the page writes `zesty-porch:` before its join link. */
export const SCHEME = 'zesty-porch';
const ENTRY = 'zesty-porch-doorstep.desktop';
const TYPE = `x-scheme-handler/${SCHEME}`;
const DEFAULTS = '[Default Applications]';

export interface EntryPlaces {
  /** XDG_DATA_HOME and XDG_CONFIG_HOME of the one account that this is for. */
  readonly dataHome: string;
  readonly configHome: string;
}
export const entryPlaces = (env: NodeJS.ProcessEnv, home: string): EntryPlaces => ({
  dataHome: env['XDG_DATA_HOME'] || join(home, '.local', 'share'),
  configHome: env['XDG_CONFIG_HOME'] || join(home, '.config'),
});
const entryFile = (places: EntryPlaces) => join(places.dataHome, 'applications', ENTRY);
const defaultsFile = (places: EntryPlaces) => join(places.configHome, 'mimeapps.list');

/** An argument of an Exec line, quoted by the Desktop Entry Specification: in quotes, with ", `, $ and \ escaped. */
const quoted = (argument: string) => `"${argument.replace(/(["`$\\])/g, '\\$1').replace(/%/g, '%%')}"`;

/**
 * Makes links of the scheme open Doorstep for this account: a desktop entry and a default application, by the
 * freedesktop.org specifications of both. Nothing outside the account's own folders is touched.
 */
export function registerLinks(places: EntryPlaces, command: readonly string[]): string {
  const file = entryFile(places);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(
    file,
    [
      '[Desktop Entry]',
      'Type=Application',
      'Name=Doorstep',
      'Comment=Lets a technician help you at this computer, and only as far as you say yes',
      `Exec=${command.map(quoted).join(' ')} open %u`,
      'Terminal=false',
      'NoDisplay=true',
      `MimeType=${TYPE};`,
      '',
    ].join('\n'),
  );
  const lines = withoutUs(readLines(defaultsFile(places)));
  const at = lines.indexOf(DEFAULTS);
  if (at < 0) lines.unshift(DEFAULTS, `${TYPE}=${ENTRY}`);
  else lines.splice(at + 1, 0, `${TYPE}=${ENTRY}`);
  mkdirSync(places.configHome, { recursive: true });
  writeFileSync(defaultsFile(places), `${lines.join('\n').trimEnd()}\n`);
  return file;
}

/** Leaves nothing behind: what was ours goes, what others wrote stays. */
export function unregisterLinks(places: EntryPlaces): void {
  rmSync(entryFile(places), { force: true });
  if (!existsSync(defaultsFile(places))) return;
  const lines = withoutUs(readLines(defaultsFile(places)));
  if (lines.every((line) => !line.trim() || line === DEFAULTS)) rmSync(defaultsFile(places));
  else writeFileSync(defaultsFile(places), `${lines.join('\n').trimEnd()}\n`);
}

const readLines = (file: string): string[] =>
  existsSync(file) ? readFileSync(file, 'utf8').trimEnd().split('\n') : [];
const withoutUs = (lines: readonly string[]) => lines.filter((line) => !line.startsWith(`${TYPE}=`));

/** The join link in what a browser hands over. Throws in words for people when it is none. */
export function linkOf(url: string): string {
  const link = url.startsWith(`${SCHEME}:`) ? url.slice(SCHEME.length + 1) : url;
  // Some browsers write what follows the scheme with its characters escaped.
  const plain = /^https?%3a/i.test(link) ? decodeURIComponent(link) : link;
  if (!/^https?:\/\/[^\s]+\/join\/[\w-]+$/.test(plain))
    throw new Error('this is not a link of a session; go back to the page and press the button there again');
  return plain;
}
