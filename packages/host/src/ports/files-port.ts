import type { FileSink, FileToSend } from '@porch/client';

/** What the person's own folder is called where it needs a name; everything else is told below it. */
export const HOME_SHOWN = '~';

export type OpenedFile = FileToSend & { close(): Promise<void> };

/** A file or folder that a technician asked for by its path, as it really lies here. */
export interface FoundFile {
  readonly path: string;
  readonly folder: string;
  /** As the person here would call it. */
  readonly shownPath: string;
  readonly sizeBytes: number;
  readonly isFolder: boolean;
  /** Files in it, where it is a folder. */
  readonly count?: number;
  /** What of a folder stays here, whoever allows it. */
  readonly leftOut: number;
  /** Why it is never sent, whoever allows it. */
  readonly whyNever: string | undefined;
  open(): Promise<OpenedFile>;
}

/** What arrives. */
export interface FileToTake {
  readonly name: string;
  readonly sizeBytes: number;
  readonly sha256: string;
  /** It comes as one stream, and is put there as a folder. */
  readonly isFolder: boolean;
}
export interface Taking {
  readonly ifThere: 'keep-both' | 'replace';
  /** Endings of names that nothing in a folder may have. */
  readonly refusedKinds: readonly string[];
  onArrived?(path: string): void;
}

/** One name in a folder. `kept`: it is there, and is never sent; nothing of it is told but its name. */
export interface NameThere {
  readonly name: string;
  readonly kind: 'file' | 'folder' | 'other' | 'kept';
  readonly sizeBytes: number;
  readonly changedAtMs: number;
}
/** A folder with more has the rest left out, and says so. */
export const MOST_NAMES = 2_000;

/** Files of this computer. */
export interface FilesPort {
  /** Bytes that are free where files are put. */
  freeBytes(): Promise<number>;
  /** Whether something of this name lies there already. */
  isThere(name: string): Promise<boolean>;
  /**
   * Takes what arrives, beside the final name until it is whole, going on with what an earlier try left of the same bytes.
   * Never overwrites: what has the name already keeps it, or is kept under another.
   */
  sinkFor(file: FileToTake, taking: Taking): Promise<FileSink>;
  /** This program goes down with its computer and comes back with it: what is half here is gone on with. */
  comesBack?(): boolean;
  /** What was left of files that did not arrive is deleted: nobody goes on with it any longer. */
  forgetPieces(): Promise<void>;
  /** Throws with the reason for what lies outside, is missing, or is neither file nor folder. */
  find(path: string, refusedKinds: readonly string[]): Promise<FoundFile>;
  /** Where a folder really lies. Throws with the reason for what lies outside, is missing, or is none. */
  folder(path: string): Promise<Pick<FoundFile, 'path' | 'shownPath' | 'whyNever'>>;
  /** What is in it: names alone, nothing is opened. `path` is a real one. */
  names(path: string): Promise<{ readonly names: readonly NameThere[]; readonly isCut: boolean }>;
}

/** The reason in words for who asked; undefined when it says nothing that they may know. */
export const isMissingFile = (error: unknown): boolean => (error as { code?: string }).code === 'ENOENT';
