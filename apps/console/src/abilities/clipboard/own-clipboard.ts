import type { ClipBytesKind } from '@porch/wire';
import { blobSink } from '../files/blob-sink.ts';

/* The clipboard of this browser, as far as a page may use it (W3C Clipboard API and events). */

/** What was copied here: what can be put there as bytes, or files. */
export type CopiedHere =
  | { readonly kind: ClipBytesKind; readonly bytes: Uint8Array }
  | { readonly kind: 'files'; readonly files: readonly File[] };

const IMAGE = 'image/png';
const bytesOf = async (blob: Blob) => new Uint8Array(await blob.arrayBuffer());

/** Of a paste: files first, a picture that has no name as a picture, else text. */
export async function copiedIn(data: DataTransfer | null): Promise<CopiedHere | undefined> {
  const files = [...(data?.files ?? [])];
  const text = data?.getData('text/plain') ?? '';
  const [first] = files;
  // A picture that was copied from a page comes as a file of this name, whatever the system.
  if (first && files.length === 1 && first.type === IMAGE && first.name === 'image.png')
    return { kind: 'image', bytes: await bytesOf(first) };
  if (files.length) return { kind: 'files', files };
  return text ? { kind: 'text', bytes: new TextEncoder().encode(text) } : undefined;
}

/** Read without a paste. Throws NotAllowedError where the browser does not let a page. */
export async function readHere(): Promise<CopiedHere | undefined> {
  for (const item of await navigator.clipboard.read()) {
    if (item.types.includes(IMAGE)) return { kind: 'image', bytes: await bytesOf(await item.getType(IMAGE)) };
    if (item.types.includes('text/plain'))
      return { kind: 'text', bytes: await bytesOf(await item.getType('text/plain')) };
  }
  return undefined;
}

/** False where the browser did not take it: it has to be in front, or the person has to press something. */
export async function writeHere(kind: ClipBytesKind, bytes: Uint8Array): Promise<boolean> {
  const type = kind === 'image' ? IMAGE : 'text/plain';
  try {
    await navigator.clipboard.write([new ClipboardItem({ [type]: new Blob([bytes.slice()], { type }) })]);
    return true;
  } catch {
    return false;
  }
}

/** Into the downloads of this browser. */
export async function saveHere(kind: ClipBytesKind, bytes: Uint8Array): Promise<void> {
  const sink = blobSink(kind === 'image' ? 'clipboard.png' : 'clipboard.txt');
  await sink.write(bytes);
  await sink.finish();
}
