import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id } from '../../ability/fields.ts';

/** What can lie on a clipboard. Files are moved as files, by the leave for those. */
export const ClipKind = z.enum(['text', 'image', 'files']);
export type ClipKind = z.infer<typeof ClipKind>;

/** What is copied on one side and pasted on the other. The ledger has its kind and size, never what it was. */
export const clipboard = defineShape({
  name: 'clipboard',
  version: 1,
  since: 3,
  permissions: {
    'give-clipboard': { shortName: 'paste', needs: 'control-input' },
    'read-clipboard': { shortName: 'copy', needs: 'control-input' },
  },
  events: {
    /** Something that this participant had put there, or read. */
    'clipboard/moved': {
      participantId: id,
      direction: z.enum(['given', 'read']),
      kind: ClipKind,
      sizeBytes: count,
      fact,
    },
  },
  initial: {},
  evolve: {},
  words: (book) => book.clipboard,
  tell: {
    'clipboard/moved': {
      technician: (e, { words, speech, nameOf }) =>
        words.technician[e.direction]({ who: nameOf(e.participantId), kind: e.kind, size: speech.bytes(e.sizeBytes) }),
      customer: (e, { words, speech, technician }) =>
        words.customer[e.direction]({
          who: technician(e.participantId),
          kind: e.kind,
          size: speech.bytes(e.sizeBytes),
        }),
    },
  },
  inStory: [],
});
