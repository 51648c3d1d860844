import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id } from '../../ability/fields.ts';
import { commandLine, CommandLineEnd, linePlace, MAX_LINE_PRINTED_CHARACTERS, mayClose } from './shape.ts';

const NOTED = 'a command line had been used';

export const commandLineRules = defineRules(commandLine, {
  commands: {
    /** The customer's side says what it did, and what stood there. */
    'command-line/tellOpened': {
      ...{ lineId: id, participantId: id, fact },
      ...linePlace,
    },
    'command-line/tellPrinted': { lineId: id, text: z.string().max(MAX_LINE_PRINTED_CHARACTERS), fact },
    'command-line/tellClosed': {
      ...{ lineId: id, how: CommandLineEnd, code: z.int().optional(), unsaid: count, fact },
      mayGoOn: z.literal(true).optional(),
    },
  },
  actions: {
    'command-line/tellOpened': 'speak for the computer',
    'command-line/tellPrinted': 'speak for the computer',
    'command-line/tellClosed': 'speak for the computer',
  },
  decide: {
    'command-line/tellOpened': (slice, { lineId, participantId, program, folder, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (slice[lineId]) return [];
      return [
        {
          ...{ type: 'command-line/opened', by: me.id, lineId, participantId, fact: number },
          personal: { program, folder },
        },
      ];
    },
    'command-line/tellPrinted': (slice, { lineId, text, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (!mayClose(slice[lineId])) return [];
      return [{ type: 'command-line/printed', by: me.id, lineId, fact: number, personal: { text } }];
    },
    'command-line/tellClosed': (slice, { lineId, how, code, unsaid, mayGoOn, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (!mayClose(slice[lineId])) return [];
      return [{ type: 'command-line/closed', by: me.id, lineId, how, code, unsaid, mayGoOn, fact: number }];
    },
  },
});
