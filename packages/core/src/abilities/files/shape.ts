import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id, sha256 } from '../../ability/fields.ts';

export interface FileTransfer {
  readonly id: string;
  readonly fromId: string;
  readonly toId: string;
  readonly sizeBytes: number;
  readonly sha256: string;
  readonly stage: 'offered' | 'moving' | 'arrived' | 'refused' | 'cancelled' | 'failed';
  readonly name: string | undefined;
  /** A folder travels as one stream of bytes: `sizeBytes` and `sha256` are of that. */
  readonly isFolder: boolean;
  /** Files in it; one for a file. */
  readonly count: number;
  /** Who stopped it for a while; undefined while it goes on. */
  readonly pausedBy: string | undefined;
}
export type FilesSlice = Readonly<Record<string, FileTransfer>>;

export const isUnderWay = ({ stage }: Pick<FileTransfer, 'stage'>): boolean =>
  stage === 'offered' || stage === 'moving';

const withStage = (s: FilesSlice, fileId: string, stage: FileTransfer['stage']): FilesSlice => {
  const file = s[fileId];
  return file ? { ...s, [fileId]: { ...file, stage } } : s;
};
const close = (s: FilesSlice, which: (file: FileTransfer) => boolean, stage: FileTransfer['stage']): FilesSlice =>
  Object.values(s).reduce(
    (next, file) => (isUnderWay(file) && which(file) ? withStage(next, file.id, stage) : next),
    s,
  );

/** An id that is known stays what it was: nobody rewrites afterwards what was given. */
const offered = (s: FilesSlice, file: Omit<FileTransfer, 'stage' | 'pausedBy'>): FilesSlice => ({
  [file.id]: { ...file, stage: 'offered', pausedBy: undefined },
  ...s,
});

const howKeys = { refused: 'fileRefused', cancelled: 'fileCancelled', failed: 'fileFailed' } as const;
/** The folder of the person themselves has no path of its own. */
const pathFor = (personal: { readonly path: string } | undefined, ownFolder: string) =>
  personal?.path === '~' ? ownFolder : (personal?.path ?? '…');
const nameFor = (s: FilesSlice, fileId: string) => s[fileId]?.name ?? '…';

/** Files from technician to customer and back. What a technician gives needs one permission, what they fetch another. */
export const files = defineShape({
  name: 'files',
  version: 2,
  sinceOf: { 'files/folderOffered': 4, 'files/paused': 4, 'files/namesOpened': 4 },
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
    'files/folderOffered': {
      fileId: id,
      fromId: id,
      toId: id,
      count,
      sizeBytes: z.int().min(0),
      sha256,
      personal: z.strictObject({ name: z.string().max(255) }).optional(),
    },
    'files/paused': { fileId: id, isPaused: z.boolean() },
    /** The person at the computer let a technician read the names in a folder, or in all that are within it. */
    'files/namesOpened': {
      forId: id,
      isDeep: z.boolean(),
      fact,
      personal: z.strictObject({ path: z.string().max(1_000) }).optional(),
    },
  },
  initial: {} as FilesSlice,
  evolve: {
    fileOffered: (s, { fileId, fromId, toId, sizeBytes, sha256: hash, personal }): FilesSlice =>
      offered(s, {
        id: fileId,
        fromId,
        toId,
        sizeBytes,
        sha256: hash,
        name: personal?.name,
        isFolder: false,
        count: 1,
      }),
    'files/folderOffered': (s, { fileId, fromId, toId, sizeBytes, sha256: hash, count: files, personal }): FilesSlice =>
      offered(s, {
        ...{ id: fileId, fromId, toId, sizeBytes, sha256: hash },
        ...{ name: personal?.name, isFolder: true, count: files },
      }),
    'files/paused': (s, { fileId, isPaused, by }) => {
      const file = s[fileId];
      return file ? { ...s, [fileId]: { ...file, pausedBy: isPaused ? by : undefined } } : s;
    },
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
    'files/folderOffered': {
      technician: (e, { words, speech, nameOf }) =>
        words.technician.folderOffered({
          who: nameOf(e.fromId),
          name: e.personal?.name ?? words.technician.aFile,
          count: e.count,
          size: speech.bytes(e.sizeBytes),
        }),
      customer: (e, { words, speech, technician, isCustomers }) => {
        const about = { name: e.personal?.name ?? '…', count: e.count, size: speech.bytes(e.sizeBytes) };
        return isCustomers(e.fromId)
          ? words.customer.youOfferedFolder(about)
          : words.customer.folderOffered({ who: technician(e.fromId), ...about });
      },
    },
    'files/paused': {
      technician: (e, { words, nameOf }, s) =>
        words.technician[e.isPaused ? 'paused' : 'wentOn']({
          who: nameOf(e.by),
          name: s[e.fileId]?.name ?? words.technician.aFile,
        }),
      customer: (e, { words, technician, isCustomers }, s) => {
        const name = nameFor(s, e.fileId);
        if (isCustomers(e.by)) return words.customer[e.isPaused ? 'youPaused' : 'youWentOn']({ name });
        return words.customer[e.isPaused ? 'paused' : 'wentOn']({ who: technician(e.by), name });
      },
    },
    'files/namesOpened': {
      technician: (e, { words, nameOf }) =>
        words.technician[e.isDeep ? 'namesOpenedDeep' : 'namesOpened']({
          who: nameOf(e.forId),
          path: pathFor(e.personal, words.technician.ownFolder),
        }),
      customer: (e, { words, technician }) =>
        words.customer[e.isDeep ? 'namesOpenedDeep' : 'namesOpened']({
          who: technician(e.forId),
          path: pathFor(e.personal, words.customer.ownFolder),
        }),
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
