import { z } from 'zod';
import { defineShape, type Telling } from '../../ability/ability-shape.ts';
import { id } from '../../ability/fields.ts';
import { formatBytes } from '../../ledger/sizes.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

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

const howWords = { refused: 'was refused', cancelled: 'was cancelled', failed: 'did not arrive' };
const howKeys = { refused: 'fileRefused', cancelled: 'fileCancelled', failed: 'fileFailed' } as const;
const nameFor = (s: FilesSlice, fileId: string) => s[fileId]?.name ?? '…';
const isTaker = (by: string, { isCustomers }: Telling) => (isCustomers(by) ? 'youAccepted' : 'fileAccepted');

/** Files from technician to customer and back. What a technician gives needs one permission, what they fetch another. */
export const files = defineShape({
  name: 'files',
  version: 1,
  permissions: {
    'give-files': {
      label: 'Give files',
      shortName: 'give',
      isUsual: true,
      canStand: true,
      wasInFirstRelease: true,
      undone: 'files on their way stop, and what came of them is deleted',
    },
    'fetch-files': {
      label: 'Fetch files',
      shortName: 'fetch',
      // A fetched file leaves the computer for good.
      isSensitive: true,
      takesAway: true,
      isUsual: true,
      wasInFirstRelease: true,
      undone: 'files on their way stop',
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
  tell: {
    fileOffered: {
      technician: (e, { nameOf }) =>
        `${nameOf(e.fromId)} offered ${e.personal?.name ?? 'a file'} (${formatBytes(e.sizeBytes)})`,
      customer: (e, { technician, isCustomers }) => [
        isCustomers(e.fromId) ? 'youOffered' : 'fileOffered',
        { who: technician(e.fromId), name: e.personal?.name ?? '…', size: formatBytes(e.sizeBytes) },
      ],
    },
    fileAccepted: {
      technician: (e, { nameOf }, s) => `${nameOf(e.by)} takes ${s[e.fileId]?.name ?? 'the file'}`,
      customer: (e, telling, s) => [
        isTaker(e.by, telling),
        { who: telling.technician(e.by), name: nameFor(s, e.fileId) },
      ],
    },
    fileClosed: {
      technician: (e, _telling, s) => `${s[e.fileId]?.name ?? 'A file'} ${howWords[e.how]}: ${e.why}`,
      customer: (e, _telling, s) => [howKeys[e.how], { name: nameFor(s, e.fileId) }],
    },
    fileArrived: {
      technician: (e, _telling, s) =>
        `${s[e.fileId]?.name ?? 'A file'} is complete (SHA-256 ${e.sha256.slice(0, 12)}…)`,
      customer: (e, _telling, s) => ['fileArrived', { name: nameFor(s, e.fileId) }],
    },
  },
  handed: (s) => Object.values(s),
  words: { en: english, no: norwegian, de: german },
  inStory: ['fileArrived'],
});
