import type { RightsBack } from '@porch/core';

type PackageBack = RightsBack['packages'][number];

/** Others may be at it; they are waited for so long. */
const LOCK_SECONDS = 20;
const NONE = '<none>';
const nameOf = (id: string): string => id.split(':')[0] ?? id;
/** As apt names a package: those for every kind of computer have no suffix there. */
const namedFor = (id: string): string => id.replace(/:all$/, '');

/**
 * Whether each package was here once as it is to be again, by dpkg's own log (dpkg(1), `--log`: date, time, act, package, version
 * before, version after). One that is to go has to have come.
 */
export function wereHere(log: string, packages: readonly PackageBack[]): boolean {
  const rows = log.split('\n').map((line) => line.split(' '));
  return packages.every(({ id, to }) =>
    rows.some(([, , act = '', of = '', from = '', then = '']) => {
      if (nameOf(of) !== nameOf(id)) return false;
      return to === undefined ? act === 'install' && from === NONE : [from, then].includes(to) && act !== 'status';
    }),
  );
}

/** For apt-get(8): all of it in one go, and no question. Files of settings that somebody changed stay as they are. */
export const aptArguments = (packages: readonly PackageBack[]): string[] => [
  ...['install', '--yes', '--quiet', '--allow-downgrades', '--no-install-recommends'],
  ...['-o', `DPkg::Lock::Timeout=${LOCK_SECONDS}`],
  ...['-o', 'Dpkg::Options::=--force-confdef', '-o', 'Dpkg::Options::=--force-confold', '--'],
  ...packages.map(({ id, to }) => (to === undefined ? `${namedFor(id)}-` : `${namedFor(id)}=${to}`)),
];

/** What apt says that it would do besides (apt-get(8), `--simulate`): other packages, or another version. */
export function otherwiseChanged(simulated: string, packages: readonly PackageBack[]): string[] {
  const wanted = new Map(packages.map(({ id, to }) => [nameOf(id), to]));
  const acts = simulated.matchAll(/^(Inst|Remv|Purg) (\S+)(?: \[[^\]]*\])?(?: \((\S+))?/gm);
  return [...acts].flatMap(([, act, id = '', version]) => {
    const name = nameOf(id);
    const isWanted =
      wanted.has(name) && (act === 'Inst' ? wanted.get(name) === version : wanted.get(name) === undefined);
    return isWanted ? [] : [name];
  });
}
