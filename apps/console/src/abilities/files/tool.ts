import {
  FileAsking,
  FileTransfers,
  inBackground,
  type FileProgress,
  type FileToSend,
  type NamesThere,
} from '@porch/client';
import { consentHolderOf, isUnderWay } from '@porch/core';
import { listenForDrops, sourceOfFile, sourcesOfDrop } from '@porch/pages/files';
import { computed, shallowRef } from 'vue';
import { inWordsOr } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import { forgetOldPieces, forgetPieces } from './kept-pieces.ts';
import { NoRoom, pageSink } from './page-sink.ts';

/** Files on their way, how far each is, and what can be done again. */
export class FilesTool implements Tool {
  readonly transfers: FileTransfers;
  readonly progress = shallowRef<Readonly<Record<string, FileProgress>>>({});
  readonly trouble = shallowRef('');
  /** Something is held over the page that could be given. */
  readonly isDragged = shallowRef(false);
  readonly mayGive = computed(() => (void this.#session.told.value, this.#session.may('give-files')));
  readonly mayFetch = computed(() => (void this.#session.told.value, this.#session.may('fetch-files')));
  readonly #session: ConsoleSession;
  readonly #asking: FileAsking;
  /** Asked for by their path: taken as soon as they are offered, since asking was the yes. */
  readonly #wanted = new Set<string>();
  readonly #given = new Map<string, FileToSend>();
  readonly #fetched = new Map<string, string>();
  readonly #stopListening: () => void;
  #isCaughtUp = false;

  constructor(session: ConsoleSession) {
    this.#session = session;
    const { connection } = session;
    this.transfers = new FileTransfers(connection);
    this.#asking = new FileAsking(connection, this.transfers);
    this.transfers.listeners.on(
      'progress',
      (progress) => (this.progress.value = { ...this.progress.value, [progress.fileId]: progress }),
    );
    connection.on('entry', ({ event }) => {
      if ((event.type === 'fileOffered' || event.type === 'files/folderOffered') && this.#wanted.delete(event.fileId))
        inBackground('taking a file', this.take(event.fileId));
    });
    connection.on('caughtUp', () => this.#endWhatWasLost());
    if (connection.status === 'live') this.#endWhatWasLost();
    inBackground('forgetting old pieces', forgetOldPieces());
    this.#stopListening = listenForDrops({
      over: (isOver) => (this.isDragged.value = isOver),
      dropped: (data) => this.#dropped(data),
    });
  }

  /** Whether it can be given or fetched once more, as it was. */
  canAgain(fileId: string): 'give' | 'fetch' | undefined {
    return this.#given.has(fileId) ? 'give' : this.#fetched.has(fileId) ? 'fetch' : undefined;
  }
  async again(fileId: string): Promise<void> {
    const [source, path] = [this.#given.get(fileId), this.#fetched.get(fileId)];
    if (source) await this.giveSources([source]);
    else if (path !== undefined) await this.fetch(path);
  }

  async attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
    this.trouble.value = '';
    try {
      return await work();
    } catch (error) {
      this.trouble.value = error instanceof NoRoom ? w.value.files.noRoom : inWordsOr(error, w.value.files.notFetched);
      return undefined;
    }
  }

  async take(fileId: string): Promise<void> {
    const file = this.#session.connection.state.slices.files[fileId];
    if (!file) return;
    await this.attempt(async () => {
      try {
        await this.transfers.accept(fileId, await pageSink(file));
      } catch (error) {
        if (error instanceof NoRoom) await this.transfers.refuse(fileId, 'there is no room for it there');
        throw error;
      }
    });
  }

  /** Offers a file to the customer's computer. Hands back its id, or nothing when it could not be. */
  give = async (file: File): Promise<string | undefined> => (await this.giveSources([sourceOfFile(file)]))[0];

  /** Offers files and folders in one question. */
  async giveSources(sources: readonly FileToSend[]): Promise<string[]> {
    const { connection } = this.#session;
    const holder = consentHolderOf(connection.state);
    if (!holder || !sources.length) return [];
    const ids = this.transfers.announce(sources.length, holder.id);
    const offered: string[] = [];
    for (const [i, source] of sources.entries()) {
      const id = await this.attempt(() => this.transfers.offer(source, holder.id, ids[i]));
      if (id === undefined) continue;
      this.#given.set(id, source);
      offered.push(id);
    }
    return offered;
  }

  async fetch(path: string): Promise<void> {
    if (!path.trim()) return;
    await this.attempt(async () => {
      const fileId = await this.#asking.fetch(path.trim());
      this.#fetched.set(fileId, path.trim());
      // The offer goes another way, and may have been here first.
      if (this.#session.connection.state.slices.files[fileId]) await this.take(fileId);
      else this.#wanted.add(fileId);
    });
  }

  look = (path: string): Promise<NamesThere | undefined> => this.attempt(() => this.#asking.look(path));

  /** Nothing of the customer's stays in this browser but what has arrived; a page that is loaded anew does not close. */
  close(): void {
    this.#stopListening();
    const { slices } = this.#session.connection.state;
    const left = Object.values(slices.files).filter(({ stage }) => stage !== 'arrived');
    inBackground(
      'ending transfers',
      this.transfers.close().then(() => Promise.all(left.map(({ sha256 }) => forgetPieces(sha256)))),
    );
  }

  /** After a reload nobody here knows what was on its way: it is ended, and can be given or fetched again from where it was. */
  #endWhatWasLost(): void {
    if (this.#isCaughtUp) return;
    this.#isCaughtUp = true;
    const { connection } = this.#session;
    const mine = connection.participantId;
    for (const file of Object.values(connection.state.slices.files))
      if (isUnderWay(file) && (file.fromId === mine || (file.toId === mine && file.stage === 'moving')))
        inBackground(
          'ending a file',
          this.attempt(() => this.transfers.fail(file.id, 'the program began anew')),
        );
  }

  #dropped(data: DataTransfer): void {
    if (!this.mayGive.value) {
      this.trouble.value = w.value.files.mayNotGive;
      return;
    }
    const sources = sourcesOfDrop(data);
    inBackground(
      'giving what was dropped',
      this.attempt(async () => this.giveSources(await sources)),
    );
  }
}

export const filesTool = defineTool({ name: 'files', begin: (session) => new FilesTool(session) });
