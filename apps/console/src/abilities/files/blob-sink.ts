import type { FileSink } from '@porch/client';
import { saveAs } from './save.ts';

/** Gathers a file in the page and hands it to the browser's downloads once it is whole. */
export function blobSink(name: string): FileSink {
  const parts: Uint8Array<ArrayBuffer>[] = [];
  return {
    write: (bytes) => {
      parts.push(bytes.slice());
      return Promise.resolve();
    },
    finish: () => {
      saveAs(name, new Blob(parts, { type: 'application/octet-stream' }));
      return Promise.resolve();
    },
    discard: () => {
      parts.length = 0;
      return Promise.resolve();
    },
  };
}
