// Makes a release of Doorstep: one file that runs by itself, and a manifest that the publisher's key signs.
// The key stays with the publisher; a service is given the release folder and nothing else.
//   node scripts/release.mjs --publisher "Marrowick Ferries" --key FILE --out FOLDER [--version 0.1.0]
//     [--address https://help.marrowick.example]: whoever is led to another service is told so
import { build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { createHash, createPrivateKey, createPublicKey, generateKeyPairSync, sign } from 'node:crypto';
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { gzipSync } from 'node:zlib';
import { embedOpus } from './embed-opus.mjs';
import { embedPty } from './embed-pty.mjs';
import { root, supportedNode } from './setup.mjs';

const { values } = parseArgs({
  options: {
    publisher: { type: 'string' },
    key: { type: 'string' },
    out: { type: 'string' },
    version: { type: 'string', default: '0.1.0' },
    address: { type: 'string' },
  },
});
const { publisher, key: keyFile, out, version, address } = values;
if (!publisher || !keyFile || !out) {
  process.stderr.write('Say --publisher NAME --key FILE --out FOLDER.\n');
  process.exit(2);
}
if (address !== undefined && !(URL.canParse(address) && /^https?:$/.test(new URL(address).protocol))) {
  process.stderr.write(`“${address}” is no address; say one like https://help.marrowick.example.\n`);
  process.exit(2);
}
const madeFor = address && new URL(address).host;

/** Made once, readable by the publisher alone. */
function privateKey() {
  if (!existsSync(keyFile)) {
    mkdirSync(dirname(keyFile), { recursive: true, mode: 0o700 });
    const { privateKey: made } = generateKeyPairSync('ed25519');
    writeFileSync(keyFile, made.export({ type: 'pkcs8', format: 'pem' }), { mode: 0o600 });
  }
  return createPrivateKey(readFileSync(keyFile));
}
const key = privateKey();
/** The last 32 bytes of an Ed25519 key in its standard form (RFC 8410) are the key itself. */
const publisherKey = createPublicKey(key).export({ type: 'spki', format: 'der' }).subarray(-32).toString('hex');

function run(command, args) {
  const { status, stderr, stdout } = spawnSync(command, args, { encoding: 'utf8' });
  if (status !== 0) throw new Error(`${command} ${args.join(' ')} ended with ${status}: ${stderr || stdout}`);
}

/** Customers get the Node that is supported, whatever builds this. */
const node = supportedNode() ?? process.execPath;
const work = mkdtempSync(join(tmpdir(), 'porch-release-'));
try {
  const bundle = join(work, 'doorstep.cjs');
  await build({
    entryPoints: [join(root, 'apps/doorstep/src/main.ts')],
    outfile: bundle,
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'cjs',
    minify: true,
    legalComments: 'none',
    logLevel: 'error',
    plugins: [embedOpus, embedPty],
    loader: { '.ttf': 'binary', '.wasm': 'binary' },
    // Native code does not go into one file; without it photos cost more bytes, and nothing else.
    external: ['sharp'],
    define: {
      __PORCH_RELEASE__: JSON.stringify({ version, publisher, publisherKey, ...(madeFor ? { madeFor } : {}) }),
      // Its optional native parts are not in the file either; looking for them would only warn.
      'process.env.WS_NO_BUFFER_UTIL': '"1"',
      'process.env.WS_NO_UTF_8_VALIDATE': '"1"',
    },
  });
  const blob = join(work, 'doorstep.blob');
  const config = join(work, 'sea.json');
  writeFileSync(config, JSON.stringify({ main: bundle, output: blob, disableExperimentalSEAWarning: true }));
  run(node, ['--experimental-sea-config', config]);
  const file = join(work, 'doorstep');
  copyFileSync(node, file);
  chmodSync(file, 0o755);
  run(process.execPath, [
    join(root, 'node_modules/postject/dist/cli.js'),
    file,
    'NODE_SEA_BLOB',
    blob,
    '--sentinel-fuse',
    'NODE_SEA_FUSE_fce680ab2cc467b6e072b8b5df1996b2',
  ]);
  const bytes = readFileSync(file);
  const manifest = JSON.stringify({
    product: 'doorstep',
    version,
    platform: `${process.platform}-${process.arch}`,
    sizeBytes: bytes.length,
    sha256: createHash('sha256').update(bytes).digest('hex'),
    publisher,
    builtAtMs: Date.now(),
  });
  const signature = sign(null, Buffer.from(`porch release 1\n${manifest}`), key).toString('hex');
  mkdirSync(out, { recursive: true });
  copyFileSync(file, join(out, 'doorstep.new'));
  writeFileSync(join(out, 'doorstep.gz.new'), gzipSync(bytes, { level: 5 }));
  writeFileSync(join(out, 'release.json.new'), JSON.stringify({ manifest, signature }));
  for (const name of ['doorstep', 'doorstep.gz', 'release.json']) renameSync(join(out, `${name}.new`), join(out, name));
  process.stdout.write(`${JSON.stringify({ version, publisher, publisherKey, sizeBytes: bytes.length })}\n`);
} finally {
  rmSync(work, { recursive: true, force: true });
}
