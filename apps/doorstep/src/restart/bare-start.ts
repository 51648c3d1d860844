import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { OWN_ENTRIES } from '../desktop-entry.ts';

/*
 * One sign-in with nothing but what the desktop needs: what else begins with it, by the Desktop Application Autostart
 * Specification, is hidden for this once. No rights are needed for that, and the next sign-in is as always.
 */

const ASIDE = '.zesty-porch-aside';
const MARK = 'X-Zesty-Porch=bare';
const MOST = 400;
/** Parts of a desktop say when they begin, and what reads a screen aloud is needed, too. */
const isOfTheDesktop = (name: string, text: string): boolean =>
  /^X-GNOME-Autostart-Phase=(?!Applications?$)/m.test(text) || /^at-spi|^orca/.test(name);

const entriesIn = (folder: string): string[] =>
  existsSync(folder) ? readdirSync(folder).filter((name) => name.endsWith('.desktop')) : [];

export interface BareStart {
  /** Names of files that hide one of the computer's. */
  readonly hidden: readonly string[];
  /** Names of this account's own, which lie under another name meanwhile. */
  readonly keptAside: readonly string[];
}

/** What would have to be done: nothing is changed yet. */
export function planBareStart(configHome: string, configDirs: readonly string[]): BareStart {
  const own = join(configHome, 'autostart');
  const needed = (folder: string, name: string) =>
    OWN_ENTRIES.includes(name) || isOfTheDesktop(name, readFileSync(join(folder, name), 'utf8'));
  const keptAside = entriesIn(own).filter((name) => !needed(own, name));
  const hidden = configDirs
    .map((folder) => join(folder, 'autostart'))
    .flatMap((folder) => entriesIn(folder).filter((name) => !needed(folder, name)))
    .filter((name, i, all) => all.indexOf(name) === i && !entriesIn(own).includes(name));
  return { hidden: hidden.slice(0, MOST), keptAside: keptAside.slice(0, MOST) };
}

export function beginBareStart(configHome: string, { hidden, keptAside }: BareStart): void {
  const own = join(configHome, 'autostart');
  if (hidden.length) mkdirSync(own, { recursive: true });
  for (const name of keptAside) renameSync(join(own, name), join(own, `${name}${ASIDE}`));
  for (const name of hidden)
    writeFileSync(join(own, name), `[Desktop Entry]\nType=Application\nName=${name}\nHidden=true\n${MARK}\n`);
}

/** Everything begins again as it did. What somebody has put there meanwhile stays. */
export function endBareStart(configHome: string, { hidden, keptAside }: BareStart): void {
  const own = join(configHome, 'autostart');
  for (const name of hidden) {
    const file = join(own, name);
    if (existsSync(file) && readFileSync(file, 'utf8').includes(MARK)) rmSync(file);
  }
  for (const name of keptAside) {
    const [aside, file] = [join(own, `${name}${ASIDE}`), join(own, name)];
    if (existsSync(aside) && !existsSync(file)) renameSync(aside, file);
  }
}
