// `npm run demo` and `npm run tour`: sets up what is missing, then starts the demo.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuilt, ensureDebianPackages, ensureNpmPackages, ensureReleased, root } from './setup.mjs';

ensureDebianPackages();
ensureNpmPackages();
ensureBuilt();
ensureReleased();
const isTour = process.argv.includes('--tour');
const child = spawn(
  process.execPath,
  [
    '--enable-source-maps',
    join(root, 'dist', isTour ? 'tour.mjs' : 'demo.mjs'),
    ...process.argv.slice(2).filter((a) => a !== '--tour'),
  ],
  { stdio: 'inherit', cwd: root },
);
// Ctrl-C reaches the demo by itself; this process waits until it has stopped everything.
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => (signal === 'SIGTERM' ? child.kill(signal) : undefined));
child.on('exit', (code, signal) => process.exit(code ?? (signal === 'SIGINT' ? 0 : 1)));
