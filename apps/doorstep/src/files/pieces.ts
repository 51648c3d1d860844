import { safeFileName, type FileSink } from '@porch/client';
import { pieceSink, takeFreeName, takeTheName, unpackFolder } from '@porch/client/node';
import type { FileToTake, Taking } from '@porch/host';
import { randomBytes } from 'node:crypto';
import { mkdir, open, readdir, rename, rm, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { isRunning, ownMaker } from '../system/maker.ts';

/* Files on their way here lie beside their final names, in pieces that say whose they are and of what. */

const HASH_CHARS = 24;
const SESSION_CHARS = 8;
const PIECE = /^\.[0-9a-f]{12}\.(\d+(?:\.\d+\.[0-9a-f-]*)?)\.([0-9a-f-]{8})\.([0-9a-f]{24})\.porch-piece$/;
/** Of a folder that is being unpacked: nobody goes on with it. */
const NO_HASH = '0'.repeat(HASH_CHARS);

interface Piece {
  readonly path: string;
  /** The program that writes it, or wrote it. Of earlier releases its number alone, which is nobody's. */
  readonly maker: string;
  readonly session: string;
  readonly hash: string;
}

/** Where files of one session are put. */
export class Pieces {
  readonly #folder: string;
  readonly #session: string;
  /** Those that something is being written to. */
  readonly #live = new Set<string>();

  constructor(folder: string, sessionId: string) {
    this.#folder = folder;
    this.#session = sessionId.slice(0, SESSION_CHARS);
  }

  /** What a Doorstep that was killed left in other sessions. */
  async removeStale(): Promise<void> {
    for (const { path, maker, session } of await this.#all())
      if (session !== this.#session && !isRunning(maker)) await rm(path, { recursive: true, force: true });
  }

  /** What is left of this session, and on its way no longer. */
  async forget(): Promise<void> {
    for (const piece of await this.#all())
      if (this.#isLeft(piece)) await rm(piece.path, { recursive: true, force: true });
  }

  /** Writes beside the final name and moves there only when everything has arrived. */
  async sink(file: FileToTake, { ifThere, refusedKinds, onArrived }: Taking): Promise<FileSink> {
    await mkdir(this.#folder, { recursive: true });
    const { piece, handle } = await this.#open(file.sha256.slice(0, HASH_CHARS));
    return pieceSink({
      path: piece,
      handle,
      onClosed: () => this.#live.delete(piece),
      put: async () => {
        const whole = file.isFolder ? await this.#unpacked(handle, file.sizeBytes, refusedKinds) : piece;
        const take = ifThere === 'replace' ? takeTheName : takeFreeName;
        const path = await take(whole, this.#folder, safeFileName(file.name));
        onArrived?.(path);
      },
    });
  }

  async #unpacked(handle: FileHandle, sizeBytes: number, refusedKinds: readonly string[]): Promise<string> {
    const into = this.#newName(NO_HASH);
    this.#live.add(into);
    try {
      await unpackFolder(handle, sizeBytes, into, refusedKinds);
      return into;
    } finally {
      this.#live.delete(into);
    }
  }

  /** What an earlier try of ours, or a Doorstep of this session that was killed, left of the same bytes; else a new one. */
  async #open(hash: string): Promise<{ piece: string; handle: FileHandle }> {
    const piece = this.#newName(hash);
    this.#live.add(piece);
    try {
      const isBegun = await this.#takeUp(hash, piece);
      return { piece, handle: await open(piece, isBegun ? 'r+' : 'wx+', 0o600) };
    } catch (error) {
      this.#live.delete(piece);
      throw error;
    }
  }

  async #takeUp(hash: string, piece: string): Promise<boolean> {
    const left = (await this.#all()).find((one) => one.hash === hash && this.#isLeft(one));
    if (!left) return false;
    try {
      await rename(left.path, piece);
      return true;
    } catch (error) {
      // Another of the same bytes has just become whole, or was deleted: there is nothing to go on with.
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
      return false;
    }
  }

  #isLeft({ path, maker, session }: Piece): boolean {
    return session === this.#session && !this.#live.has(path) && (maker === ownMaker || !isRunning(maker));
  }

  #newName(hash: string): string {
    const name = `.${randomBytes(6).toString('hex')}.${ownMaker}.${this.#session}.${hash}.porch-piece`;
    return join(this.#folder, name);
  }

  async #all(): Promise<Piece[]> {
    const names = await readdir(this.#folder).catch(() => []);
    return names.flatMap((name) => {
      const [, maker, session, hash] = PIECE.exec(name) ?? [];
      return maker && session && hash ? [{ path: join(this.#folder, name), maker, session, hash }] : [];
    });
  }
}
