import { closeSync, constants as open, openSync, mkdtempSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { constants, homedir, tmpdir } from 'node:os';
import { join } from 'node:path';

/** Of open(2): a file without a name, gone with its last descriptor. Node does not name it. */
const O_TMPFILE = 0o20200000;
const OWN_ONLY = 0o700;

function load(path: string): unknown {
  const module = { exports: {} };
  process.dlopen(module, path, constants.dlopen.RTLD_NOW);
  return module.exports;
}

function withoutName(folder: string, bytes: Uint8Array): unknown {
  const file = openSync(folder, open.O_RDWR | O_TMPFILE, OWN_ONLY);
  try {
    writeSync(file, bytes);
    return load(`/proc/self/fd/${file}`);
  } finally {
    closeSync(file);
  }
}
function withName(folder: string, bytes: Uint8Array): unknown {
  const own = mkdtempSync(join(folder, 'doorstep-'));
  try {
    const path = join(own, 'native.node');
    writeFileSync(path, bytes, { mode: OWN_ONLY });
    return load(path);
  } finally {
    rmSync(own, { recursive: true });
  }
}

/** Native code that is held in this program, since it travels as one file. Throws with every way that was tried. */
export function loadNative(bytes: Uint8Array): unknown {
  const tried: string[] = [];
  for (const folder of [process.env['XDG_RUNTIME_DIR'], tmpdir(), join(homedir(), '.cache')])
    for (const way of folder ? [withoutName, withName] : [])
      try {
        return way(folder ?? '', bytes);
      } catch (error) {
        tried.push(`${folder}: ${String(error)}`);
      }
  throw new Error(`native code could not be loaded: ${tried.join('; ')}`);
}
