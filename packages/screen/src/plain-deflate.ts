import { deflateSync, inflateSync } from 'fflate';
import type { Deflate, Inflate } from './unit-body.ts';

/** Inflates into a buffer of exactly the size that must come out, so that no input can ask for more memory. */
export const inflateInPlainCode: Inflate = (bytes, sizeBytes) => inflateSync(bytes, { out: new Uint8Array(sizeBytes) });

/** For sources without Node's own. */
export const deflateInPlainCode: Deflate = (bytes) => deflateSync(bytes, { level: 1 });
