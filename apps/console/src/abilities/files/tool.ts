import { FileTransfers, inBackground, type FileToSend } from '@porch/client';
import { consentHolderOf } from '@porch/core';
import { shallowRef } from 'vue';
import { inWords } from '../../in-words.ts';
import { reasonInWords, w } from '../../words/index.ts';
import { defineTool } from '../console-ability.ts';
import { blobSink } from './blob-sink.ts';

/** Files on their way, and how far each is. */
export const filesTool = defineTool({
  name: 'files',
  begin(session) {
    const { connection } = session;
    const transfers = new FileTransfers(connection);
    const progress = shallowRef<Readonly<Record<string, number>>>({});
    const trouble = shallowRef('');
    /** Asked for by their path: taken as soon as they are offered, since asking was the yes. */
    const wanted = new Set<string>();

    async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
      trouble.value = '';
      try {
        return await work();
      } catch (error) {
        trouble.value = inWords(error);
        return undefined;
      }
    }
    const take = async (fileId: string): Promise<void> => {
      const name = connection.state.slices.files[fileId]?.name ?? 'file';
      await attempt(() => transfers.accept(fileId, blobSink(name)));
    };
    transfers.listeners.on('progress', ({ fileId, movedBytes, sizeBytes }) => {
      progress.value = { ...progress.value, [fileId]: sizeBytes ? movedBytes / sizeBytes : 1 };
    });
    transfers.listeners.on('message', ({ message }) => {
      if (message.type === 'fetchRefused')
        trouble.value = w.value.files.notFetched({ why: reasonInWords(message.why) });
      else if (message.type === 'fetchStarted') {
        // The offer goes another way, and may have been here first.
        if (connection.state.slices.files[message.fileId]) inBackground('taking a file', take(message.fileId));
        else wanted.add(message.fileId);
      }
    });
    connection.on('entry', ({ event }) => {
      if (event.type === 'fileOffered' && wanted.delete(event.fileId))
        inBackground('taking a file', take(event.fileId));
    });
    return {
      transfers,
      progress,
      trouble,
      attempt,
      take,
      /** Offers it to the customer's computer. Hands back its id, or nothing when it could not be. */
      async give(file: File): Promise<string | undefined> {
        const holder = consentHolderOf(connection.state);
        if (!holder) return undefined;
        return attempt(() => transfers.offer(sourceOf(file), holder.id));
      },
      fetch(path: string): void {
        const holder = consentHolderOf(connection.state);
        if (!holder || !path.trim()) return;
        trouble.value = '';
        transfers.tell(holder.seat, { type: 'fetch', requestId: crypto.randomUUID(), path: path.trim() });
      },
      // Only pieces in memory: they go with the page.
      close: () => inBackground('ending transfers', transfers.close()),
    };
  },
});

const sourceOf = (file: File): FileToSend => ({
  name: file.name,
  sizeBytes: file.size,
  read: async (offset, length) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
});
