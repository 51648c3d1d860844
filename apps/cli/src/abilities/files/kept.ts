import { FileAsking, FileTransfers, inBackground, type FileProgress, type FileToSend } from '@porch/client';
import { fileToSend, folderToSend } from '@porch/client/node';
import { consentHolderOf, isUnderWay, type FileTransfer } from '@porch/core';
import { AppError } from '@porch/wire';
import { stat } from 'node:fs/promises';
import { defineKept, type KeeperKit, type Tell } from '../cli-ability.ts';
import { filesCalls, type IfThere } from './calls.ts';
import { diskSink } from './disk-sink.ts';

/** The offer of a file that was fetched goes another way than its name. */
const OFFER_WAIT_MS = 20_000;
/** A file may take as long as a day. */
const LONGEST_FILE_MS = 24 * 60 * 60_000;

type Source = FileToSend & { close(): Promise<void> };

/** Files and folders between this disk and the customer. */
class KeptFiles {
  readonly #kit: KeeperKit;
  readonly #transfers: FileTransfers;
  readonly #asking: FileAsking;
  readonly #progress = new Map<string, FileProgress>();

  constructor(kit: KeeperKit) {
    this.#kit = kit;
    this.#transfers = new FileTransfers(kit.connection);
    this.#asking = new FileAsking(kit.connection, this.#transfers);
    this.#transfers.listeners.on('progress', (progress) => this.#progress.set(progress.fileId, progress));
  }

  status() {
    const files = Object.values(this.#kit.connection.state.slices.files);
    return { files: files.map((file) => ({ ...file, ...this.#progressOf(file) })) };
  }

  /** All in one question; resolves when each has arrived or was refused. */
  async give(paths: readonly string[], tell: Tell) {
    const holder = consentHolderOf(this.#kit.connection.state);
    if (!holder) throw new AppError('NO_CONSENT_HOLDER');
    const sources: Source[] = [];
    try {
      for (const path of paths) sources.push(await sourceOf(path));
      const ids = this.#transfers.announce(sources.length, holder.id);
      for (const [i, source] of sources.entries()) await this.#transfers.offer(source, holder.id, ids[i]);
      return await Promise.all(ids.map((id) => this.#finished(id, tell)));
    } finally {
      await Promise.all(sources.map((source) => source.close()));
    }
  }

  async fetch(path: string, folder: string, ifThere: IfThere, tell: Tell) {
    this.#kit.need('fetch-files');
    const fileId = await this.#asking.fetch(path);
    await this.#kit.until(() => this.#kit.connection.state.slices.files[fileId] !== undefined, OFFER_WAIT_MS);
    return this.#take(fileId, folder, ifThere, tell);
  }

  async look(path: string) {
    this.#kit.need('fetch-files');
    return this.#asking.look(path);
  }

  /** Everything that the customer offers just now. */
  async takeAll(folder: string, ifThere: IfThere, tell: Tell) {
    const { state, participantId } = this.#kit.connection;
    const offered = Object.values(state.slices.files).filter(
      (file) => file.stage === 'offered' && file.toId === participantId,
    );
    const taken: unknown[] = [];
    for (const file of offered) taken.push(await this.#take(file.id, folder, ifThere, tell));
    return taken;
  }

  async setPaused(name: string, isPaused: boolean) {
    const file = this.#named(name);
    await this.#transfers.setPaused(file.id, isPaused);
    return { fileId: file.id, name: file.name, isPaused };
  }
  async stop(name: string) {
    const file = this.#named(name);
    await this.#transfers.cancel(file.id);
    return { fileId: file.id, name: file.name };
  }

  close(): void {
    inBackground('ending transfers', this.#transfers.close());
  }

  #progressOf({ id, stage }: FileTransfer) {
    const { movedBytes, bytesPerSecond, leftMs } = this.#progress.get(id) ?? {};
    return stage === 'moving' ? { movedBytes, bytesPerSecond, leftMs } : {};
  }

  /** The one on its way that is called so. */
  #named(name: string): FileTransfer {
    const file = Object.values(this.#kit.connection.state.slices.files).find(
      (one) => isUnderWay(one) && (one.name === name || one.id === name),
    );
    if (!file) throw new AppError('FILE_NOT_OPEN');
    return file;
  }

  async #take(fileId: string, folder: string, ifThere: IfThere, tell: Tell) {
    const file = this.#kit.connection.state.slices.files[fileId];
    if (!file) throw new AppError('FILE_NOT_OPEN');
    let path: string | undefined;
    const sink = await diskSink(folder, file, ifThere, (at) => (path = at));
    if (sink === 'skipped') {
      await this.#transfers.refuse(fileId);
      return { fileId, stage: 'refused', name: file.name, sha256: file.sha256 };
    }
    await this.#transfers.accept(fileId, sink);
    const finished = await this.#finished(fileId, tell);
    return { ...finished, ...(path === undefined ? {} : { path }) };
  }

  async #finished(fileId: string, tell: Tell) {
    const off = this.#transfers.listeners.on('progress', (progress) => {
      if (progress.fileId === fileId) tell(progress);
    });
    const file = () => this.#kit.connection.state.slices.files[fileId];
    await this.#kit.until(() => !isUnderWay({ stage: file()?.stage ?? 'failed' }), LONGEST_FILE_MS);
    off();
    return { fileId, stage: file()?.stage ?? 'failed', name: file()?.name, sha256: file()?.sha256 };
  }
}

async function sourceOf(path: string): Promise<Source> {
  return (await stat(path)).isDirectory() ? folderToSend(path, { refusedKinds: [] }) : fileToSend(path);
}

export const keptFiles = defineKept({
  name: 'files',
  calls: filesCalls,
  begin: (kit) => new KeptFiles(kit),
  answer: {
    giveFiles: (files, { paths }, tell) => files.give(paths, tell),
    fetchFile: (files, { path, folder, ifThere }, tell) => files.fetch(path, folder, ifThere, tell),
    takeFiles: (files, { folder, ifThere }, tell) => files.takeAll(folder, ifThere, tell),
    lookAtNames: (files, { path }) => files.look(path),
    setFilePaused: (files, { name, isPaused }) => files.setPaused(name, isPaused),
    stopFile: (files, { name }) => files.stop(name),
  },
});
