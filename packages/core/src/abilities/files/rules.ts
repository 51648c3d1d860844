import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { id, sha256 } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { files, isUnderWay } from './shape.ts';

export interface FilesPolicy {
  readonly maxFileBytes: number;
}
const commands = {
  offerFile: { fileId: id, toId: id, name: z.string().min(1).max(255), sizeBytes: z.int().min(0), sha256 },
  acceptFile: { fileId: id },
  closeFile: { fileId: id, how: z.enum(['refused', 'cancelled', 'failed']), why: z.string().max(80) },
  confirmFile: { fileId: id, sha256 },
};

export const filesRules = defineRules(files, {
  commands,
  actions: {
    offerFile: 'work with files',
    acceptFile: 'work with files',
    closeFile: 'work with files',
    confirmFile: 'work with files',
  },
  decide: {
    offerFile: (s, c, me, view, policy: FilesPolicy) => {
      if (view.isOver) return refuse('SESSION_ENDED');
      // A second offer under a known id would rewrite what the customer's copy says was given.
      if (Object.hasOwn(s, c.fileId)) return refuse('FILE_ID_USED');
      const receiver = view.participants[c.toId];
      if (!receiver || receiver.isGone) return refuse('NOT_PRESENT');
      if (me.side === receiver.side) return refuse('WRONG_ROLE');
      if (c.sizeBytes > policy.maxFileBytes) return refuse('FILE_TOO_LARGE');
      const isGiven = me.side === 'desk';
      if (!view.holds(isGiven ? 'give-files' : 'fetch-files', isGiven ? me.id : receiver.id))
        return refuse('NOT_GRANTED');
      const { fileId, toId, sizeBytes, sha256: hash, name } = c;
      return [
        { type: 'fileOffered', by: me.id, fileId, fromId: me.id, toId, sizeBytes, sha256: hash, personal: { name } },
      ];
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
      if (file.toId !== me.id && file.fromId !== me.id && me.side === 'desk') return refuse('WRONG_ROLE');
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
