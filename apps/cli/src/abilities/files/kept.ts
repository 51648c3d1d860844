import { consentHolderOf } from '@porch/core';
import { FileTransfers, inBackground } from '@porch/client';
import { AppError } from '@porch/wire';
import { createWriteStream } from 'node:fs';
import { mkdir, open, rename, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { RefusedThere } from '../../keeper/refused-there.ts';
import { defineKept, type KeeperKit, type Tell } from '../cli-ability.ts';
import { filesCalls } from './calls.ts';

/** The person at the computer is asked for each file. */
const FILE_QUESTION_MS = 180_000;
/** The offer of a file that was fetched goes another way than its name. */
const OFFER_WAIT_MS = 20_000;
/** A file may take as long as a day. */
const LONGEST_FILE_MS = 24 * 60 * 60_000;

/** Files between this disk and the customer. */
class KeptFiles {
  readonly #kit: KeeperKit;
  readonly #transfers: FileTransfers;

  constructor(kit: KeeperKit) {
    this.#kit = kit;
    this.#transfers = new FileTransfers(kit.connection);
  }

  status() {
    return { files: Object.values(this.#kit.connection.state.slices.files) };
  }

  async give(path: string, tell: Tell) {
    const { state } = this.#kit.connection;
    if (!state.holderId) throw new AppError('NO_CONSENT_HOLDER');
    const handle = await open(path, 'r');
    try {
      const { size } = await handle.stat();
      const source = {
        name: basename(path),
        sizeBytes: size,
        async read(offset: number, length: number) {
          const bytes = new Uint8Array(length);
          const { bytesRead } = await handle.read(bytes, 0, length, offset);
          if (bytesRead !== length) throw new Error('the file became shorter');
          return bytes;
        },
      };
      const fileId = await this.#transfers.offer(source, state.holderId);
      return await this.#finished(fileId, tell);
    } finally {
      await handle.close();
    }
  }

  async fetch(path: string, folder: string, tell: Tell) {
    const { state } = this.#kit.connection;
    const holder = consentHolderOf(state);
    if (!holder) throw new AppError('NO_CONSENT_HOLDER');
    this.#kit.need('fetch-files');
    const requestId = crypto.randomUUID();
    const fileId = await new Promise<string>((resolve, reject) => {
      const timer = setTimeout(() => reject(new AppError('NO_CONSENT_HOLDER')), FILE_QUESTION_MS);
      const off = this.#transfers.listeners.on('message', ({ message }) => {
        if (!('requestId' in message) || message.requestId !== requestId) return;
        off();
        clearTimeout(timer);
        if (message.type === 'fetchStarted') resolve(message.fileId);
        else reject(new RefusedThere(message.type === 'fetchRefused' ? message.why : 'it was refused'));
      });
      this.#transfers.tell(holder.seat, { type: 'fetch', requestId, path });
    });
    await this.#kit.until(() => this.#kit.connection.state.slices.files[fileId] !== undefined, OFFER_WAIT_MS);
    return this.#take(fileId, folder, tell);
  }

  /** Everything that the customer offers just now. */
  async takeAll(folder: string, tell: Tell) {
    const { state, participantId } = this.#kit.connection;
    const offered = Object.values(state.slices.files).filter(
      (file) => file.stage === 'offered' && file.toId === participantId,
    );
    const taken: unknown[] = [];
    for (const file of offered) taken.push(await this.#take(file.id, folder, tell));
    return taken;
  }

  close(): void {
    inBackground('ending transfers', this.#transfers.close());
  }

  async #take(fileId: string, folder: string, tell: Tell) {
    const file = this.#kit.connection.state.slices.files[fileId];
    if (!file) throw new AppError('FILE_NOT_OPEN');
    await mkdir(folder, { recursive: true });
    const path = join(folder, file.name ?? 'unnamed');
    if (
      await stat(path).then(
        () => true,
        () => false,
      )
    )
      throw new AppError('INVALID_REQUEST', { path });
    const part = `${path}.part`;
    const stream = createWriteStream(part, { mode: 0o600 });
    await this.#transfers.accept(fileId, {
      write: (bytes) =>
        new Promise((resolve, reject) => stream.write(bytes, (error) => (error ? reject(error) : resolve()))),
      finish: async () => {
        await new Promise<void>((resolve) => stream.end(() => resolve()));
        await rename(part, path);
      },
      discard: async () => {
        stream.destroy();
        await rm(part, { force: true });
      },
    });
    return { ...(await this.#finished(fileId, tell)), path };
  }

  async #finished(fileId: string, tell: Tell) {
    const off = this.#transfers.listeners.on('progress', (progress) => {
      if (progress.fileId === fileId) tell(progress);
    });
    const stage = () => this.#kit.connection.state.slices.files[fileId]?.stage ?? 'failed';
    await this.#kit.until(() => stage() !== 'offered' && stage() !== 'moving', LONGEST_FILE_MS);
    off();
    return {
      fileId,
      stage: stage(),
      name: this.#kit.connection.state.slices.files[fileId]?.name,
      sha256: this.#kit.connection.state.slices.files[fileId]?.sha256,
    };
  }
}

export const keptFiles = defineKept({
  name: 'files',
  calls: filesCalls,
  begin: (kit) => new KeptFiles(kit),
  answer: {
    giveFile: (files, { path }, tell) => files.give(path, tell),
    fetchFile: (files, { path, folder }, tell) => files.fetch(path, folder, tell),
    takeFiles: (files, { folder }, tell) => files.takeAll(folder, tell),
  },
});
