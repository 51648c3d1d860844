import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id, sha256 } from '../../ability/fields.ts';
import type { PersonView, SessionView } from '../../ability/session-view.ts';
import { refuse } from '../../decision.ts';
import { isRefusedKind } from './refused-kinds.ts';
import { files, isUnderWay, type FilesSlice, type FileTransfer } from './shape.ts';

export interface FilesPolicy {
  readonly maxFileBytes: number;
  readonly refusedFileKinds: readonly string[];
}
const offer = { fileId: id, toId: id, name: z.string().min(1).max(255), sizeBytes: z.int().min(0), sha256 };
const commands = {
  offerFile: offer,
  'files/offerFolder': { ...offer, count },
  acceptFile: { fileId: id },
  'files/setPaused': { fileId: id, isPaused: z.boolean() },
  closeFile: { fileId: id, how: z.enum(['refused', 'cancelled', 'failed']), why: z.string().max(80) },
  confirmFile: { fileId: id, sha256 },
  'files/tellNamesOpened': { forId: id, path: z.string().max(1_000), isDeep: z.boolean(), fact },
};

/** Why this may not be offered; undefined when it may. */
function whyNotOffered(
  s: FilesSlice,
  c: { readonly fileId: string; readonly toId: string; readonly sizeBytes: number },
  me: PersonView,
  view: SessionView,
  policy: FilesPolicy,
) {
  if (view.isOver) return refuse('SESSION_ENDED');
  // A second offer under a known id would rewrite what the customer's copy says was given.
  if (Object.hasOwn(s, c.fileId)) return refuse('FILE_ID_USED');
  const receiver = view.participants[c.toId];
  if (!receiver || receiver.isGone) return refuse('NOT_PRESENT');
  if (me.side === receiver.side) return refuse('WRONG_ROLE');
  if (c.sizeBytes > policy.maxFileBytes) return refuse('FILE_TOO_LARGE');
  const isGiven = me.side === 'desk';
  if (!view.holds(isGiven ? 'give-files' : 'fetch-files', isGiven ? me.id : receiver.id)) return refuse('NOT_GRANTED');
  return undefined;
}
const isTheirs = (file: FileTransfer, me: PersonView): boolean =>
  file.toId === me.id || file.fromId === me.id || me.side === 'customer';

export const filesRules = defineRules(files, {
  commands,
  actions: {
    offerFile: 'work with files',
    'files/offerFolder': 'work with files',
    acceptFile: 'work with files',
    'files/setPaused': 'work with files',
    closeFile: 'work with files',
    confirmFile: 'work with files',
    'files/tellNamesOpened': 'speak for the computer',
  },
  decide: {
    offerFile: (s, c, me, view, policy: FilesPolicy) => {
      const whyNot = whyNotOffered(s, c, me, view, policy);
      if (whyNot) return whyNot;
      if (isRefusedKind(c.name, policy.refusedFileKinds)) return refuse('FILE_KIND');
      const { fileId, toId, sizeBytes, sha256: hash, name } = c;
      return [
        { type: 'fileOffered', by: me.id, fileId, fromId: me.id, toId, sizeBytes, sha256: hash, personal: { name } },
      ];
    },
    // What lies within is looked at by the programs at both ends: the service does not see it.
    'files/offerFolder': (s, c, me, view, policy: FilesPolicy) => {
      const whyNot = whyNotOffered(s, c, me, view, policy);
      if (whyNot) return whyNot;
      const { fileId, toId, sizeBytes, sha256: hash, name, count: files } = c;
      const about = { fileId, fromId: me.id, toId, count: files, sizeBytes, sha256: hash, personal: { name } };
      return [{ type: 'files/folderOffered', by: me.id, ...about }];
    },
    'files/setPaused': (s, c, me) => {
      const file = s[c.fileId];
      if (file?.stage !== 'moving') return refuse('FILE_NOT_OPEN');
      if (!isTheirs(file, me)) return refuse('WRONG_ROLE');
      if ((file.pausedBy !== undefined) === c.isPaused) return [];
      return [{ type: 'files/paused', by: me.id, fileId: c.fileId, isPaused: c.isPaused }];
    },
    'files/tellNamesOpened': (_s, c, me, view) => {
      if (view.isOver || view.holderId !== me.id || !view.holds('fetch-files', c.forId))
        return { noted: 'names in a folder had been opened' };
      const { forId, isDeep, path } = c;
      return [{ type: 'files/namesOpened', by: me.id, forId, isDeep, fact: c.fact, personal: { path } }];
    },
    acceptFile: (s, c, me) => {
      const file = s[c.fileId];
      if (file?.stage !== 'offered') return refuse('FILE_NOT_OPEN');
      if (file.toId !== me.id) return refuse('WRONG_ROLE');
      return [{ type: 'fileAccepted', by: me.id, fileId: c.fileId }];
    },
    closeFile: (s, c, me) => {
      const file = s[c.fileId];
      if (!file || !isUnderWay(file)) return [];
      if (!isTheirs(file, me)) return refuse('WRONG_ROLE');
      return [{ type: 'fileClosed', by: me.id, fileId: c.fileId, how: c.how, why: c.why }];
    },
    confirmFile: (s, c, me) => {
      const file = s[c.fileId];
      if (file?.stage !== 'moving') return refuse('FILE_NOT_OPEN');
      if (file.toId !== me.id) return refuse('WRONG_ROLE');
      const { fileId, sha256: hash } = c;
      const why = 'what arrived is not what was sent';
      if (hash !== file.sha256)
        return [{ type: 'fileClosed' as const, by: me.id, fileId, how: 'failed' as const, why }];
      return [{ type: 'fileArrived' as const, by: me.id, fileId, sha256: hash }];
    },
  },
});
