// Makes typed words of the catalogue in packages/words/messages. Says every fault and its place.
import { build } from 'esbuild';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './setup.mjs';

const folder = join(root, 'packages', 'words');

export async function makeWords() {
  const outfile = join(root, '.cache', 'words', 'compiler.mjs');
  await build({
    entryPoints: [join(folder, 'compile', 'build.ts')],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'warning',
  });
  const { buildWords } = await import(pathToFileURL(outfile).href);
  buildWords(join(folder, 'messages'), join(folder, 'src', 'built'));
}

if (process.argv[1] === import.meta.filename)
  makeWords().catch((error) => {
    process.stderr.write(`${error.message}\n`);
    process.exitCode = 1;
  });
