/** Where a file comes from: a disk, or a page. */
export interface FileToSend {
  readonly name: string;
  readonly sizeBytes: number;
  /** Files in it, where it is a folder that travels as one stream. */
  readonly count?: number;
  /** Exactly so many bytes. Throws when they are not there any longer. */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** Where a file goes. */
export interface FileSink {
  write(bytes: Uint8Array): Promise<void>;
  /** Everything is there, and is what was sent. */
  finish(): Promise<void>;
  /** What came of it is deleted. */
  discard(): Promise<void>;
  /** What came of it stays, for when the same file comes again; without it, it is discarded. */
  leave?(): Promise<void>;
  /** What an earlier try left of the very same bytes: they need not come again. */
  readonly begun?: {
    readonly bytes: number;
    read(offset: number, length: number): Promise<Uint8Array>;
  };
}

export interface FileProgress {
  readonly fileId: string;
  readonly movedBytes: number;
  readonly sizeBytes: number;
  /** Over the last seconds; undefined until it was measured. */
  readonly bytesPerSecond: number | undefined;
  readonly leftMs: number | undefined;
}
