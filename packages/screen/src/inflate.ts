import { inflateSync } from 'fflate';
import type { Inflate } from './update-codec.ts';

/** Inflates into a buffer of exactly the size that must come out, so that no input can ask for more memory. */
export const inflateInPlainCode: Inflate = (bytes, sizeBytes) => inflateSync(bytes, { out: new Uint8Array(sizeBytes) });
