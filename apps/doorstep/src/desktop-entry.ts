import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { languages, type Language } from '@porch/words';
import { host, type HostWords } from '@porch/words/host';

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
const WAITING_ENTRY = 'zesty-porch-waiting.desktop';
const STANDING_ENTRY = 'zesty-porch-standing.desktop';
const waitingFile = (places: EntryPlaces) => join(places.configHome, 'autostart', WAITING_ENTRY);
const standingFile = (places: EntryPlaces) => join(places.dataHome, 'applications', STANDING_ENTRY);

type Entry = keyof HostWords['standing']['entries'];
/** Locales as desktop entries name them; Norwegian goes by either name. */
const entryLocales = (language: Language): readonly string[] => (language === 'no' ? ['nb', 'no'] : [language]);
/** A key of an entry in every language; the first stands for all others. */
const localized = (key: string, of: (words: HostWords) => string): string[] =>
  languages.flatMap((language, i) => {
    const text = of(host[language]);
    return i === 0 ? [`${key}=${text}`] : entryLocales(language).map((locale) => `${key}[${locale}]=${text}`);
  });

const entryText = (entry: Entry, exec: string, more: readonly string[] = []) =>
  [
    '[Desktop Entry]',
    'Type=Application',
    ...localized('Name', ({ standing }) => standing.entries[entry].name),
    ...localized('Comment', ({ standing }) => standing.entries[entry].comment),
    `Exec=${exec}`,
    'Terminal=false',
    ...more,
    '',
  ].join('\n');
const execOf = (command: readonly string[]) => command.map(quoted).join(' ');

/**
 * Makes Doorstep wait from each sign-in on, by the Desktop Application Autostart Specification, and puts what ends that
 * into the menu: for this account alone.
 */
export function registerWaiting(places: EntryPlaces, command: readonly string[], stateFolder: string): void {
  const state = `--state ${quoted(stateFolder)}`;
  mkdirSync(dirname(waitingFile(places)), { recursive: true });
  writeFileSync(waitingFile(places), entryText('waits', `${execOf(command)} wait ${state}`));
  mkdirSync(dirname(standingFile(places)), { recursive: true });
  writeFileSync(
    standingFile(places),
    entryText('standing', `${execOf(command)} standing window ${state}`, ['Categories=Settings;']),
  );
}

const RETURN_ENTRY = 'zesty-porch-return.desktop';
const returnFile = (places: EntryPlaces) => join(places.configHome, 'autostart', RETURN_ENTRY);
/** What of ours begins with a sign-in. */
export const OWN_ENTRIES: readonly string[] = [WAITING_ENTRY, RETURN_ENTRY];

/** Makes Doorstep come back with the next sign-in. */
export function registerReturning(places: EntryPlaces, command: readonly string[]): void {
  mkdirSync(dirname(returnFile(places)), { recursive: true });
  writeFileSync(returnFile(places), entryText('returns', execOf(command), ['NoDisplay=true']));
}
export const isReturning = (places: EntryPlaces): boolean => existsSync(returnFile(places));
export function unregisterReturning(places: EntryPlaces): void {
  rmSync(returnFile(places), { force: true });
}

/** Whether anything of this account's still starts Doorstep. */
export const isRegistered = (places: EntryPlaces): boolean =>
  [entryFile(places), waitingFile(places), returnFile(places)].some((file) => existsSync(file));

/** Takes both away again. */
export function unregisterWaiting(places: EntryPlaces): void {
  rmSync(waitingFile(places), { force: true });
  rmSync(standingFile(places), { force: true });
}

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
  writeFileSync(file, entryText('link', `${execOf(command)} open %u`, ['NoDisplay=true', `MimeType=${TYPE};`]));
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
