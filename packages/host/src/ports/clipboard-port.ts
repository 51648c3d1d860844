/** What somebody copied on this computer: what could be had of it. */
export interface Copied {
  /** Another number for each copy. */
  readonly number: number;
  readonly parts: readonly { readonly kind: 'text' | 'image'; readonly sizeBytes: number }[];
  readonly files: readonly { readonly path: string; readonly name: string; readonly sizeBytes: number }[];
}
export type ClipContent =
  | { readonly kind: 'text' | 'image'; readonly bytes: Uint8Array }
  | { readonly kind: 'files'; readonly paths: readonly string[] };

/** The clipboard of this computer. */
export interface ClipboardPort {
  /** Hears of what other programs copy from now on, never of what was there before; reads no more than so many bytes of it. */
  follow(mostBytes: number, listener: (copied: Copied) => void): () => void;
  /** UTF-8 text, or a PNG; undefined when something else was copied meanwhile. */
  bytesOf(number: number, kind: 'text' | 'image'): Uint8Array | undefined;
  /** Resolves once every program can paste it. */
  put(content: ClipContent): Promise<void>;
}
