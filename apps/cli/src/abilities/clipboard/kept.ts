import { RefusedThere, TechnicianClipboard } from '@porch/client';
import { isPng } from '@porch/wire';
import { readFile, writeFile } from 'node:fs/promises';
import { defineKept } from '../cli-ability.ts';
import { clipboardCalls } from './calls.ts';

export const keptClipboard = defineKept({
  name: 'clipboard',
  calls: clipboardCalls,
  begin(kit) {
    const clipboard = new TechnicianClipboard(kit.connection);
    clipboard.listeners.on('copied', () => kit.changed());
    kit.connection.on('entry', () => {
      if (!kit.may('read-clipboard')) clipboard.forget();
    });
    return { kit, clipboard, close: () => clipboard.close() };
  },
  answer: {
    async copyFrom({ kit, clipboard }, { kind, file, waitMs }) {
      kit.need('read-clipboard');
      const partNow = () => clipboard.offer?.parts.find((part) => kind === undefined || part.kind === kind);
      await kit.until(() => partNow() !== undefined, waitMs);
      const part = partNow();
      if (!part) throw new RefusedThere('nothing that could be read has been copied there since that was allowed');
      const bytes = await clipboard.read(part.kind);
      const about = { kind: part.kind, sizeBytes: bytes.length };
      if (file !== undefined) {
        await writeFile(file, bytes, { mode: 0o600 });
        return { ...about, file };
      }
      if (part.kind === 'image') throw new RefusedThere('it is a picture: say where it goes, with -o FILE');
      return { ...about, text: new TextDecoder().decode(bytes) };
    },
    async copyTo({ kit, clipboard }, { kind, text, file }) {
      kit.need('give-clipboard');
      const bytes = file === undefined ? new TextEncoder().encode(text ?? '') : await readFile(file);
      if (kind === 'image' && !isPng(bytes)) throw new RefusedThere('that file is no PNG');
      await clipboard.put(kind, bytes);
      return { kind, sizeBytes: bytes.length };
    },
  },
});
