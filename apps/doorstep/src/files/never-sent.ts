import { realpath } from 'node:fs/promises';
import { sep } from 'node:path';

interface NeverSent {
  /** Below the home folder; a folder stands for everything in it. `*` is one name. */
  readonly path: string;
  readonly why: string;
}

/*
 * What no technician is sent, whatever is allowed: whoever has one of these can act as the person here long after the
 * session. The person themselves can still give any file they like.
 */
export const neverSent: readonly NeverSent[] = [
  { path: '.ssh', why: 'keys that open other computers' },
  { path: '.gnupg', why: 'keys that sign and decrypt' },
  { path: '.pki', why: 'certificates and their keys' },
  { path: '.aws', why: 'keys of a cloud' },
  { path: '.azure', why: 'keys of a cloud' },
  { path: '.kube', why: 'keys of servers' },
  { path: '.docker/config.json', why: 'passwords of registries' },
  { path: '.config/gcloud', why: 'keys of a cloud' },
  { path: '.netrc', why: 'passwords' },
  { path: '.pgpass', why: 'passwords' },
  { path: '.my.cnf', why: 'passwords' },
  { path: '.git-credentials', why: 'passwords' },
  { path: '.config/git/credentials', why: 'passwords' },
  { path: '.npmrc', why: 'passwords of registries' },
  { path: '.pypirc', why: 'passwords of registries' },
  { path: '.password-store', why: 'passwords' },
  { path: '.local/share/keyrings', why: 'passwords' },
  { path: '.local/share/kwalletd', why: 'passwords' },
  { path: '.mozilla', why: 'passwords and sign-ins of a browser' },
  { path: '.thunderbird', why: 'passwords and mails' },
  { path: '.config/chromium', why: 'passwords and sign-ins of a browser' },
  { path: '.config/google-chrome', why: 'passwords and sign-ins of a browser' },
  { path: '.config/BraveSoftware', why: 'passwords and sign-ins of a browser' },
  { path: '.config/microsoft-edge', why: 'passwords and sign-ins of a browser' },
  { path: '.var/app/*/config', why: 'passwords and sign-ins of programs' },
  { path: '.bash_history', why: 'what was typed at a command line, passwords among it' },
  { path: '.zsh_history', why: 'what was typed at a command line, passwords among it' },
  { path: '.Xauthority', why: 'the key of this screen' },
  { path: '.ICEauthority', why: 'the key of this desktop' },
];

const isWithin = (path: string, folder: string) => path === folder || path.startsWith(folder + sep);

function matches(parts: readonly string[], pattern: string): boolean {
  const wanted = pattern.split('/');
  return wanted.every((name, i) => (name === '*' ? parts[i] !== undefined : parts[i] === name));
}

/** Why this file is never sent; undefined when it may be asked for. `path` is real, links followed. */
export async function whyNeverSent(
  path: string,
  home: string,
  ownFolders: readonly string[],
): Promise<string | undefined> {
  for (const folder of ownFolders) {
    const real = await realpath(folder).catch(() => folder);
    if (isWithin(path, real)) return 'it belongs to Doorstep itself';
  }
  const root = await realpath(home);
  if (!isWithin(path, root)) return undefined;
  const parts = path.slice(root.length + 1).split(sep);
  return neverSent.find((one) => matches(parts, one.path))?.why;
}
