import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Language } from '@porch/core';

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

type InLanguages = Readonly<Record<Language, string>>;
/** Locales as desktop entries name them; Norwegian goes by either name. */
const entryLocales: Readonly<Record<Exclude<Language, 'en'>, readonly string[]>> = { no: ['nb', 'no'], de: ['de'] };
const localized = (key: string, { en, ...others }: InLanguages): string[] => [
  `${key}=${en}`,
  ...(['no', 'de'] as const).flatMap((l) => entryLocales[l].map((locale) => `${key}[${locale}]=${others[l]}`)),
];

const words = {
  waits: {
    name: { en: 'Doorstep waits', no: 'Doorstep venter', de: 'Doorstep wartet' },
    comment: {
      en: 'Lets the help desk knock at this computer, as you allowed',
      no: 'Lar brukerstøtten banke på hos denne maskinen, som du tillot',
      de: 'Lässt den Helpdesk an diesem Computer anklopfen, wie Sie es erlaubt haben',
    },
  },
  standing: {
    name: {
      en: 'Who may connect to this computer later',
      no: 'Hvem kan koble seg til denne maskinen senere',
      de: 'Wer darf später auf diesen Computer zugreifen',
    },
    comment: {
      en: 'Shows your standing consent and every remote visit, and ends it',
      no: 'Viser den stående tillatelsen og hvert fjernbesøk, og avslutter den',
      de: 'Zeigt Ihre Dauererlaubnis und jeden Zugriff, und beendet sie',
    },
  },
  link: {
    name: { en: 'Doorstep', no: 'Doorstep', de: 'Doorstep' },
    comment: {
      en: 'Lets a technician help you at this computer, and only as far as you say yes',
      no: 'Lar en tekniker hjelpe deg ved denne maskinen, og bare så langt du sier ja',
      de: 'Lässt sich an diesem Computer helfen, und nur so weit, wie Sie Ja sagen',
    },
  },
} as const;

const entryText = (
  { name, comment }: { readonly name: InLanguages; readonly comment: InLanguages },
  exec: string,
  more: readonly string[] = [],
) =>
  [
    '[Desktop Entry]',
    'Type=Application',
    ...localized('Name', name),
    ...localized('Comment', comment),
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
  writeFileSync(waitingFile(places), entryText(words.waits, `${execOf(command)} wait ${state}`));
  mkdirSync(dirname(standingFile(places)), { recursive: true });
  writeFileSync(
    standingFile(places),
    entryText(words.standing, `${execOf(command)} standing window ${state}`, ['Categories=Settings;']),
  );
}

/** Whether anything of this account's still starts Doorstep. */
export const isRegistered = (places: EntryPlaces): boolean =>
  [entryFile(places), waitingFile(places)].some((file) => existsSync(file));

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
  writeFileSync(file, entryText(words.link, `${execOf(command)} open %u`, ['NoDisplay=true', `MimeType=${TYPE};`]));
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
