import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { root } from './setup.mjs';

const { resolve } = createRequire(import.meta.url);

/** An esbuild plugin: puts the native part of terminals into the bundle, where its loader would look for a package. */
export const embedPty = {
  name: 'embed-pty',
  setup: (b) => {
    b.onResolve({ filter: /\/requireBinary$/ }, () => ({ path: 'pty', namespace: 'embed-pty' }));
    b.onLoad({ filter: /.*/, namespace: 'embed-pty' }, () => ({
      loader: 'js',
      resolveDir: join(root, 'apps/doorstep/src/command-line'),
      contents: `
        import { loadNative } from './load-native.ts';
        const bytes = ${JSON.stringify(readFileSync(resolve(`@lydell/node-pty-${process.platform}-${process.arch}/pty.node`)).toString('base64'))};
        export const requireBinary = () => loadNative(Buffer.from(bytes, 'base64'));`,
    }));
  },
};
