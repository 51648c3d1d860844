import type { FileSink, FileToSend } from '@porch/client';

/** A file that a technician asked for by its path, as it really lies here. */
export interface FoundFile {
  readonly path: string;
  readonly folder: string;
  /** As the person here would call it. */
  readonly shownPath: string;
  readonly sizeBytes: number;
  /** Why such a file is never sent, whoever allows it. */
  readonly whyNever: string | undefined;
}

/** Files of this computer. */
export interface FilesPort {
  /** Takes what arrives, beside the final name until it is whole. Never overwrites. */
  sinkFor(name: string, onArrived?: (path: string) => void): Promise<FileSink>;
  /** Throws with the reason for what lies outside, is missing, or is no plain file. */
  find(path: string): Promise<FoundFile>;
  open(path: string): Promise<FileToSend & { close(): Promise<void> }>;
}

/** The reason in words for who asked; undefined when it says nothing that they may know. */
export const isMissingFile = (error: unknown): boolean => (error as { code?: string }).code === 'ENOENT';
