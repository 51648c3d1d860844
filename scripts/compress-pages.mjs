// Beside each page, script and style lies what it is with Brotli (RFC 7932) and gzip: made once, not at each request.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

const worthIt = /\.(js|css|html|svg|json|wasm|txt)$/;
/** Below this the header of the answer is as long as what is saved. */
const MIN_BYTES = 1024;

export function compressPages(folder) {
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile() || !worthIt.test(entry.name)) continue;
    const path = join(entry.parentPath ?? entry.path, entry.name);
    const bytes = readFileSync(path);
    if (bytes.length < MIN_BYTES) continue;
    const params = { [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length };
    writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params }));
    writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
  }
}
