import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, copyFileSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { testPageProgram } from './quayprint-test-page.ts';
import type { StandInComputer } from './stand-in-computer.ts';

const NAME = 'quayprint-driver';
/** Where packages of the printer's maker lie at a stand-in computer. */
const REPOSITORY = '/srv/quayprint';
/** How high the barcode is that each version prints, in millimetres: 4.1 cuts it in half. */
const versions = { '3.8': 24, '4.1': 12, '4.2': 24 } as const;
type QuayprintVersion = keyof typeof versions;

const controlOf = (version: QuayprintVersion): string =>
  `Package: ${NAME}\nVersion: ${version}\nArchitecture: all\nDepends: python3\nMaintainer: Quayprint <packages@quayprint.example>\nDescription: Driver of the Quayprint 80 pass printer\n`;

/** A package of Debian's form for the invented printer at Tern Quay, made in `folder`; its path. */
export function quayprintPackage(folder: string, version: QuayprintVersion): string {
  const root = join(folder, `${NAME}-${version}`);
  const settings = join(root, 'usr', 'share', NAME);
  mkdirSync(join(root, 'DEBIAN'), { recursive: true });
  mkdirSync(settings, { recursive: true });
  writeFileSync(join(root, 'DEBIAN', 'control'), controlOf(version));
  writeFileSync(join(settings, 'defaults.conf'), `barcode-height = ${versions[version]}\n`);
  const programs = join(root, 'usr', 'bin');
  mkdirSync(programs, { recursive: true });
  writeFileSync(join(programs, 'quayprint-test-page'), testPageProgram, { mode: 0o755 });
  const file = join(folder, `${NAME}_${version}_all.deb`);
  execFileSync('dpkg-deb', ['--root-owner-group', '--build', root, file], { stdio: 'ignore' });
  chmodSync(file, 0o644);
  return file;
}

/** Installs a version at a computer as its administrator would, by that computer's own dpkg. */
export async function installQuayprint(
  computer: StandInComputer,
  folder: string,
  version: QuayprintVersion,
): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const file = quayprintPackage(folder, version);
  const there = `${REPOSITORY}/${basename(file)}`;
  mkdirSync(`${computer.root}${REPOSITORY}`, { recursive: true });
  copyFileSync(file, `${computer.root}${there}`);
  await computer.read('dpkg', '--install', there);
}

/** What the maker has published so far, in a repository of Debian's form on that computer, where its own apt finds them. */
export function offerQuayprint(computer: StandInComputer, folder: string): void {
  mkdirSync(folder, { recursive: true });
  const root = `${computer.root}${REPOSITORY}`;
  mkdirSync(root, { recursive: true });
  const entries = (['3.8', '4.1'] as const).map((version) => {
    const file = quayprintPackage(folder, version);
    copyFileSync(file, join(root, basename(file)));
    const sum = createHash('sha256').update(readFileSync(file)).digest('hex');
    return `${controlOf(version)}Filename: ./${basename(file)}\nSize: ${statSync(file).size}\nSHA256: ${sum}\n`;
  });
  writeFileSync(join(root, 'Packages'), entries.join('\n'));
  const list = `${computer.root}/etc/apt/sources.list.d/quayprint.list`;
  mkdirSync(join(list, '..'), { recursive: true });
  writeFileSync(list, `deb [trusted=yes] file:${REPOSITORY} ./\n`);
}

/** As if what dpkg has logged of the driver until now had been on these days: its own log says when each change was. */
export async function dateQuayprint(
  computer: StandInComputer,
  days: Readonly<Partial<Record<QuayprintVersion, Date>>>,
): Promise<void> {
  for (const [version, day] of Object.entries(days)) {
    const date = `${day.getFullYear()}-${String(day.getMonth() + 1).padStart(2, '0')}-${String(day.getDate()).padStart(2, '0')}`;
    const of = `${NAME}:all \\S+ ${version.replace('.', '\\.')}$`;
    await computer.read(
      'sed',
      '-Ei',
      `/ (install|upgrade) ${of}/s/^[0-9-]{10} [0-9:]{8}/${date} 09:12:00/`,
      '/var/log/dpkg.log',
    );
  }
}

/** The last Monday before a day, which may be one itself. */
export function mondayBefore(now: Date): Date {
  const day = new Date(now);
  const since = (day.getDay() + 6) % 7;
  day.setDate(day.getDate() - (since || 7));
  return day;
}
