import { fileURLToPath, pathToFileURL } from 'node:url';

/** Lines of `text/uri-list` (RFC 2483) as paths; what is no file of this computer is left out. */
export function pathsOf(uriList: string): string[] {
  return uriList
    .replace(/\0/g, '')
    .split(/\r?\n/)
    .filter((line) => line.startsWith('file:'))
    .flatMap((line) => {
      try {
        return [fileURLToPath(line.trim())];
      } catch {
        return []; // Of another computer, or no address at all.
      }
    });
}

export const uriListOf = (paths: readonly string[]): string =>
  paths.map((path) => `${pathToFileURL(path).href}\r\n`).join('');
/** The same as file managers of the desktops of freedesktop.org paste it. */
export const copiedFilesOf = (paths: readonly string[]): string =>
  ['copy', ...paths.map((path) => pathToFileURL(path).href)].join('\n');
