// `npm test`: sets up what is missing, then lint, types and the whole suite, on the line of Node that releases hold,
// whatever runs this. `-- --long` runs thousands of schedules, `-- --this-node` the suite on the Node that runs this.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensureDebianPackages, ensureNpmPackages, root, say, supportedNode } from './setup.mjs';

ensureDebianPackages({ forTests: true });
ensureNpmPackages();
ensureBuilt();
const args = process.argv.slice(2);
const isLong = args.includes('--long');
const isOnThisNode = args.includes('--this-node');
const rest = args.filter((a) => a !== '--long' && a !== '--this-node');
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
  run('Shape', process.execPath, [join(root, 'scripts', 'shape.mjs')]);
  run('Lint', bin('eslint'), ['.', '--cache', '--cache-location', '.cache/eslint/']);
}
// Where no package brings it (elsewhere than on Linux on x64) this Node has to do.
const node = (isOnThisNode ? undefined : supportedNode()) ?? process.execPath;
// Whatever the tests start runs on the same Node.
run('Tests', node, [join(root, 'node_modules', 'vitest', 'vitest.mjs'), 'run', ...rest], {
  PORCH_TEST_LONG: isLong ? '1' : '',
  // What is installed has to run on this one, too.
  TESTS_OTHER_NODE: process.execPath,
});
