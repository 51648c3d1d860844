import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id } from '../../ability/fields.ts';
import { ClipKind, clipboard } from './shape.ts';

export const clipboardRules = defineRules(clipboard, {
  commands: {
    /** The customer's side says that something was put onto its clipboard, or read from it. */
    'clipboard/tellMoved': {
      participantId: id,
      direction: z.enum(['given', 'read']),
      kind: ClipKind,
      sizeBytes: count,
      fact,
    },
  },
  actions: { 'clipboard/tellMoved': 'speak for the computer' },
  decide: {
    'clipboard/tellMoved': (_slice, { participantId, direction, kind, sizeBytes, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'something had been copied' };
      return [{ type: 'clipboard/moved', by: me.id, participantId, direction, kind, sizeBytes, fact: number }];
    },
  },
});
