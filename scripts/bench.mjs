// `npm run bench`: builds, then runs the benches.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensureDebianPackages, ensureNpmPackages, root } from './setup.mjs';

ensureDebianPackages();
ensureNpmPackages();
ensureBuilt();
const result = spawnSync(
  process.execPath,
  ['--enable-source-maps', join(root, 'dist', 'bench.mjs'), ...process.argv.slice(2)],
  { stdio: 'inherit', cwd: root },
);
process.exit(result.status ?? 1);
