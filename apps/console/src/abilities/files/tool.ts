import { FileTransfers, inBackground } from '@porch/client';
import { shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** Files on their way, and how far each is. */
export const filesTool = defineTool({
  name: 'files',
  begin({ connection }) {
    const transfers = new FileTransfers(connection);
    const progress = shallowRef<Readonly<Record<string, number>>>({});
    transfers.listeners.on('progress', ({ fileId, movedBytes, sizeBytes }) => {
      progress.value = { ...progress.value, [fileId]: sizeBytes ? movedBytes / sizeBytes : 1 };
    });
    return {
      transfers,
      progress,
      // Only pieces in memory: they go with the page.
      close: () => inBackground('ending transfers', transfers.close()),
    };
  },
});
