// Compiles the picture's kernel to WebAssembly: the same files that plain TypeScript runs, with another memory beneath.
import asc from 'assemblyscript/asc';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './setup.mjs';

const folder = join(root, 'packages', 'screen');
const places = ['assembly', join('src', 'kernel')];

export async function buildKernel() {
  const { error, stderr, binary } = await compile();
  if (error) {
    process.stderr.write(stderr);
    throw error;
  }
  const out = join(folder, 'src', 'built');
  mkdirSync(out, { recursive: true });
  const base64 = Buffer.from(binary).toString('base64');
  writeFileSync(
    join(out, 'kernel-wasm.ts'),
    `// Made by scripts/build-kernel.mjs.\nexport const kernelWasm =\n  '${base64}';\n`,
  );
}

async function compile() {
  let binary;
  const stderr = asc.createMemoryStream();
  const { error } = await asc.main(
    [
      'index.ts',
      '--outFile',
      'kernel.wasm',
      '-O3',
      '--noAssert',
      '--runtime',
      'stub',
      '--importMemory',
      '--enable',
      'simd',
      '--use',
      'abort=',
    ],
    {
      stderr,
      stdout: asc.createMemoryStream(),
      readFile(name) {
        for (const place of places) {
          const path = join(folder, place, name);
          if (existsSync(path)) return readFileSync(path, 'utf8').replace(/from '(\.\/[a-z-]+)\.ts'/g, "from '$1'");
        }
        return null;
      },
      writeFile: (_name, contents) => (binary = contents),
      listFiles: () => [],
    },
  );
  return { error, stderr: stderr.toString(), binary };
}

if (process.argv[1] === import.meta.filename) await buildKernel();
