// `npm test`: sets up what is missing, then lint, types and the whole suite. `-- --long` runs thousands of schedules.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensureDebianPackages, ensureNpmPackages, root, say } from './setup.mjs';

ensureDebianPackages();
ensureNpmPackages();
ensureBuilt();
const args = process.argv.slice(2);
const isLong = args.includes('--long');
const rest = args.filter((a) => a !== '--long');
const bin = (name) => join(root, 'node_modules', '.bin', name);

function run(title, command, commandArgs, env = {}) {
  const startedAt = Date.now();
  say(`• ${title}`);
  const { status } = spawnSync(command, commandArgs, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  say(`  ${title}: ${((Date.now() - startedAt) / 1000).toFixed(1)} s`);
  if (status !== 0) process.exit(status ?? 1);
}
if (!rest.length) {
  run('Import arrows', bin('depcruise'), [
    '--config',
    '.dependency-cruiser.cjs',
    'packages',
    'apps',
    'demo',
    'bench',
    'test',
  ]);
  run('Types', bin('vue-tsc'), ['--noEmit', '-p', 'tsconfig.json']);
  run('Lint', bin('eslint'), ['.', '--cache', '--cache-location', '.cache/eslint/']);
}
run('Tests', bin('vitest'), ['run', ...rest], { PORCH_TEST_LONG: isLong ? '1' : '' });
