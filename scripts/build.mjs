// Builds every program into dist/: bundles for Node with esbuild, the pages with Vite.
import { build } from 'esbuild';
import { mkdirSync, rmSync, writeFileSync, chmodSync } from 'node:fs';
import { join } from 'node:path';
import { build as buildPages } from 'vite';
import { writeNotices } from './notices.mjs';
import { compressPages } from './compress-pages.mjs';
import { buildKernel } from './build-kernel.mjs';
import { embedOpus } from './embed-opus.mjs';
import { embedPty } from './embed-pty.mjs';
import { root, sourceHash } from './setup.mjs';
import { makeWords } from './words.mjs';

const dist = join(root, 'dist');
rmSync(dist, { recursive: true, force: true });
mkdirSync(dist, { recursive: true });

await buildKernel();
await makeWords();

/** Keeps npm packages out of a bundle; ours go in. */
const keepPackagesOut = {
  name: 'keep-packages-out',
  setup: (b) =>
    b.onResolve({ filter: /^[^./]/ }, ({ path }) =>
      path.startsWith('@porch/') ? undefined : { path, external: true },
    ),
};
const node = {
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  sourcemap: true,
  logLevel: 'warning',
  loader: { '.ttf': 'binary', '.wasm': 'binary' },
  legalComments: 'none',
};
// Packages in CommonJS ask for `require` and `__dirname`; a bundle in ESM has to make them.
const banner = {
  js: "import { createRequire as __makeRequire } from 'node:module'; const require = __makeRequire(import.meta.url); const __dirname = import.meta.dirname;",
};
const programs = [
  ['apps/service/src/main.ts', 'service.mjs', { plugins: [keepPackagesOut] }],
  ['apps/service/src/admin/main.ts', 'porch-admin.mjs', { plugins: [keepPackagesOut] }],
  ['apps/stand-ins/src/tickets/main.ts', 'tickets.mjs', { plugins: [keepPackagesOut] }],
  ['apps/stand-ins/src/post/main.ts', 'post.mjs', { plugins: [keepPackagesOut] }],
  ['apps/stand-ins/src/directory/main.ts', 'directory.mjs', { plugins: [keepPackagesOut] }],
  ['apps/stand-ins/src/camera/main.ts', 'camera.mjs', { plugins: [keepPackagesOut] }],
  ['demo/src/computer/bridge.ts', 'bridge.mjs', { plugins: [keepPackagesOut] }],
  ['demo/src/main.ts', 'demo.mjs', { plugins: [keepPackagesOut] }],
  ['demo/src/tour.ts', 'tour.mjs', { plugins: [keepPackagesOut] }],
  ['bench/src/main.ts', 'bench.mjs', { plugins: [keepPackagesOut] }],
  ['bench/src/relay-host.ts', 'bench-relay-host.mjs', { plugins: [keepPackagesOut] }],
  // These two travel alone: everything is in the one file.
  [
    'apps/cli/src/main.ts',
    'porch.mjs',
    { banner, plugins: [embedOpus], splitting: true, outdir: dist, entryNames: 'porch', chunkNames: 'porch-[hash]' },
  ],
  ['apps/doorstep/src/main.ts', 'doorstep.mjs', { banner, plugins: [embedOpus, embedPty], external: ['sharp'] }],
];
await Promise.all(
  programs.map(([entry, out, extra]) =>
    build({
      ...node,
      entryPoints: [join(root, entry)],
      ...(extra.outdir ? {} : { outfile: join(dist, out) }),
      ...extra,
      ...(extra.outdir ? { outExtension: { '.js': '.mjs' } } : {}),
    }),
  ),
);
await build({
  ...node,
  platform: 'browser',
  format: 'iife',
  sourcemap: false,
  target: 'es2022',
  entryPoints: [join(root, 'bench/src/viewer-worker.ts')],
  outfile: join(dist, 'bench-viewer.js'),
});
chmodSync(join(dist, 'porch.mjs'), 0o755);
for (const app of ['console', 'front-door'])
  await buildPages({
    root: join(root, 'apps', app),
    configFile: join(root, 'apps', app, 'vite.config.ts'),
    logLevel: 'warn',
    build: { outDir: join(dist, 'web', app), emptyOutDir: true },
  });
compressPages(join(dist, 'web'));
writeNotices(dist);
writeFileSync(join(dist, '.stamp'), sourceHash());
