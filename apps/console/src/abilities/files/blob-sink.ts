import type { FileSink } from '@porch/client';

/** Gathers a file in the page and hands it to the browser's downloads once it is whole. */
export function blobSink(name: string): FileSink {
  const parts: Uint8Array<ArrayBuffer>[] = [];
  return {
    write: (bytes) => {
      parts.push(bytes.slice());
      return Promise.resolve();
    },
    finish: () => {
      const url = URL.createObjectURL(new Blob(parts, { type: 'application/octet-stream' }));
      const link = Object.assign(document.createElement('a'), { href: url, download: name });
      link.click();
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
      return Promise.resolve();
    },
    discard: () => {
      parts.length = 0;
      return Promise.resolve();
    },
  };
}
