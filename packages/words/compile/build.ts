import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { readCatalogue } from './catalogue.ts';
import { emitCatalogue } from './emit.ts';

/** Makes the typed words of a catalogue. Throws with every fault there is, so that all are mended at once. */
export function buildWords(messagesFolder: string, builtFolder: string): void {
  const catalogue = readCatalogue(messagesFolder);
  if (catalogue.faults.length) throw new Error(`The words cannot be built:\n  ${catalogue.faults.join('\n  ')}`);
  const files = emitCatalogue(catalogue);
  for (const old of filesIn(builtFolder)) if (!files.has(old)) rmSync(join(builtFolder, old));
  for (const [path, text] of files) {
    const file = join(builtFolder, path);
    // What did not change keeps its time, and whoever watches is left alone.
    if (existsSync(file) && readFileSync(file, 'utf8') === text) continue;
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, text);
  }
}

const filesIn = (folder: string, below = ''): string[] =>
  !existsSync(join(folder, below))
    ? []
    : readdirSync(join(folder, below)).flatMap((name) => {
        const path = below ? `${below}/${name}` : name;
        return statSync(join(folder, path)).isDirectory() ? filesIn(folder, path) : [path];
      });
