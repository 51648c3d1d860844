import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { id } from '../../ability/fields.ts';

export interface FileTransfer {
  readonly id: string;
  readonly fromId: string;
  readonly toId: string;
  readonly sizeBytes: number;
  readonly sha256: string;
  readonly stage: 'offered' | 'moving' | 'arrived' | 'refused' | 'cancelled' | 'failed';
  readonly name: string | undefined;
}
export type FilesSlice = Readonly<Record<string, FileTransfer>>;

export const isUnderWay = ({ stage }: FileTransfer): boolean => stage === 'offered' || stage === 'moving';

const withStage = (s: FilesSlice, fileId: string, stage: FileTransfer['stage']): FilesSlice => {
  const file = s[fileId];
  return file ? { ...s, [fileId]: { ...file, stage } } : s;
};
const close = (s: FilesSlice, which: (file: FileTransfer) => boolean, stage: FileTransfer['stage']): FilesSlice =>
  Object.values(s).reduce(
    (next, file) => (isUnderWay(file) && which(file) ? withStage(next, file.id, stage) : next),
    s,
  );

const howKeys = { refused: 'fileRefused', cancelled: 'fileCancelled', failed: 'fileFailed' } as const;
const nameFor = (s: FilesSlice, fileId: string) => s[fileId]?.name ?? '…';

/** Files from technician to customer and back. What a technician gives needs one permission, what they fetch another. */
export const files = defineShape({
  name: 'files',
  version: 1,
  permissions: {
    'give-files': {
      shortName: 'give',
      isUsual: true,
      canStand: true,
      wasInFirstRelease: true,
    },
    'fetch-files': {
      shortName: 'fetch',
      // A fetched file leaves the computer for good.
      isSensitive: true,
      takesAway: true,
      isUsual: true,
      wasInFirstRelease: true,
    },
  },
  events: {
    fileOffered: {
      fileId: id,
      fromId: id,
      toId: id,
      sizeBytes: z.int().min(0),
      sha256: z.string().length(64),
      personal: z.strictObject({ name: z.string().max(255) }).optional(),
    },
    fileAccepted: { fileId: id },
    fileClosed: { fileId: id, how: z.enum(['refused', 'cancelled', 'failed']), why: z.string().max(80) },
    fileArrived: { fileId: id, sha256: z.string().length(64) },
  },
  initial: {} as FilesSlice,
  evolve: {
    // An id that is known stays what it was: nobody rewrites afterwards what was given.
    fileOffered: (s, { fileId, fromId, toId, sizeBytes, sha256, personal }): FilesSlice => ({
      [fileId]: { id: fileId, fromId, toId, sizeBytes, sha256, stage: 'offered', name: personal?.name },
      ...s,
    }),
    fileAccepted: (s, e) => withStage(s, e.fileId, 'moving'),
    fileClosed: (s, e) => withStage(s, e.fileId, e.how),
    fileArrived: (s, e) => withStage(s, e.fileId, 'arrived'),
  },
  fell: (s, permission, participantId) => {
    if (permission === 'give-files') return close(s, (file) => file.fromId === participantId, 'cancelled');
    if (permission === 'fetch-files') return close(s, (file) => file.toId === participantId, 'cancelled');
    return s;
  },
  left: (s, participantId) =>
    close(s, (file) => file.fromId === participantId || file.toId === participantId, 'failed'),
  ended: (s) => close(s, () => true, 'cancelled'),
  words: (book) => book.files,
  tell: {
    fileOffered: {
      technician: (e, { words, speech, nameOf }) =>
        words.technician.offered({
          who: nameOf(e.fromId),
          name: e.personal?.name ?? words.technician.aFile,
          size: speech.bytes(e.sizeBytes),
        }),
      customer: (e, { words, speech, technician, isCustomers }) => {
        const about = { name: e.personal?.name ?? '…', size: speech.bytes(e.sizeBytes) };
        return isCustomers(e.fromId)
          ? words.customer.youOffered(about)
          : words.customer.fileOffered({ who: technician(e.fromId), ...about });
      },
    },
    fileAccepted: {
      technician: (e, { words, nameOf }, s) =>
        words.technician.accepted({ who: nameOf(e.by), name: s[e.fileId]?.name ?? words.technician.aFile }),
      customer: (e, { words, technician, isCustomers }, s) =>
        isCustomers(e.by)
          ? words.customer.youAccepted({ name: nameFor(s, e.fileId) })
          : words.customer.fileAccepted({ who: technician(e.by), name: nameFor(s, e.fileId) }),
    },
    fileClosed: {
      technician: (e, { words, reason }, s) =>
        words.technician.closed({
          name: s[e.fileId]?.name ?? words.technician.aFile,
          how: e.how,
          why: reason(e.why),
        }),
      customer: (e, { words }, s) => words.customer[howKeys[e.how]]({ name: nameFor(s, e.fileId) }),
    },
    fileArrived: {
      technician: (e, { words }, s) =>
        words.technician.arrived({
          name: s[e.fileId]?.name ?? words.technician.aFile,
          hash: e.sha256.slice(0, 12),
        }),
      customer: (e, { words }, s) => words.customer.fileArrived({ name: nameFor(s, e.fileId) }),
    },
  },
  handed: (s) => Object.values(s),
  inStory: ['fileArrived'],
});
