import type { ClipboardPort, ClipContent, Copied } from '@porch/host';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import type { Fixes } from 'x11';
import { XConnection } from '../server/connection.ts';
import { copiedFilesOf, pathsOf, uriListOf } from './file-lists.ts';
import { Selection } from './selection.ts';

/** As programs name text, the best first. */
const TEXT_TARGETS = ['UTF8_STRING', 'text/plain;charset=utf-8'] as const;
const GIVEN_TEXT_TARGETS = [...TEXT_TARGETS, 'text/plain', 'STRING', 'TEXT'] as const;
const IMAGE_TARGET = 'image/png';
const FILES_TARGETS = ['text/uri-list', 'x-special/gnome-copied-files'] as const;
/** Programs that keep passwords mark what nobody should look at. */
const SECRET_TARGET = 'x-kde-passwordManagerHint';
const MOST_FILES = 100;
const MOST_LIST_BYTES = 256 * 1024;

/** The clipboard of an X11 desktop, on a connection of its own: what is large there keeps nothing else waiting. */
export class X11Clipboard implements ClipboardPort {
  readonly #x: XConnection;
  readonly #selection: Selection;
  #mostBytes = 0;
  #listener: ((copied: Copied) => void) | undefined;
  #number = 0;
  #bytes: ReadonlyMap<'text' | 'image', Uint8Array> = new Map();

  private constructor(x: XConnection, selection: Selection) {
    this.#x = x;
    this.#selection = selection;
    selection.onTaken = () => {
      const number = ++this.#number;
      this.#bytes = new Map();
      this.#look(number).catch(() => undefined); // The server went; whoever follows it knows.
    };
  }

  static async open(display: string): Promise<X11Clipboard> {
    const x = await XConnection.open(display, () => undefined);
    return new X11Clipboard(x, await Selection.open(x, await x.extension<Fixes>('fixes'), 'CLIPBOARD'));
  }

  follow(mostBytes: number, listener: (copied: Copied) => void): () => void {
    this.#mostBytes = mostBytes;
    this.#listener = listener;
    // What is there now was there before.
    this.#number++;
    return () => {
      if (this.#listener !== listener) return;
      this.#listener = undefined;
      this.#bytes = new Map();
    };
  }

  bytesOf = (number: number, kind: 'text' | 'image'): Uint8Array | undefined =>
    number === this.#number ? this.#bytes.get(kind) : undefined;

  async put(content: ClipContent): Promise<void> {
    const given = new Map<string, Buffer>();
    if (content.kind === 'files') {
      const [list, copied] = FILES_TARGETS;
      given.set(list, Buffer.from(uriListOf(content.paths)));
      given.set(copied, Buffer.from(copiedFilesOf(content.paths)));
    } else {
      const targets = content.kind === 'text' ? GIVEN_TEXT_TARGETS : [IMAGE_TARGET];
      for (const target of targets) given.set(target, Buffer.from(content.bytes));
    }
    await this.#selection.own(given);
  }

  close(): void {
    this.#listener = undefined;
    this.#x.close();
  }

  /** What another program has just copied, read as long as nothing else is copied meanwhile. */
  async #look(number: number): Promise<void> {
    if (!this.#listener) return;
    const isNow = () => number === this.#number && this.#listener !== undefined;
    const targets = await this.#selection.targets();
    if (!isNow() || targets.includes(SECRET_TARGET)) return;
    const bytes = new Map<'text' | 'image', Uint8Array>();
    const text = TEXT_TARGETS.find((target) => targets.includes(target));
    const files = targets.includes(FILES_TARGETS[0]) ? await this.#files() : [];
    // The names of files as text say no more than the files.
    for (const [kind, target] of [
      ['text', files.length ? undefined : text],
      ['image', targets.includes(IMAGE_TARGET) ? IMAGE_TARGET : undefined],
    ] as const) {
      const read = target === undefined || !isNow() ? undefined : await this.#selection.read(target, this.#mostBytes);
      if (read instanceof Buffer && read.length) bytes.set(kind, read);
    }
    if (!isNow() || (!bytes.size && !files.length)) return;
    this.#bytes = bytes;
    const parts = [...bytes].map(([kind, { length }]) => ({ kind, sizeBytes: length }));
    this.#listener?.({ number, parts, files });
  }

  async #files(): Promise<Copied['files']> {
    const list = await this.#selection.read(FILES_TARGETS[0], MOST_LIST_BYTES);
    const paths = list instanceof Buffer ? pathsOf(list.toString('utf8')).slice(0, MOST_FILES) : [];
    const found = await Promise.all(
      paths.map(async (path) => {
        const about = await stat(path).catch(() => undefined); // Gone meanwhile.
        return about?.isFile() ? [{ path, name: basename(path), sizeBytes: about.size }] : [];
      }),
    );
    return found.flat();
  }
}
