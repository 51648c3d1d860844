import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';
import { MAX_PRINT_TITLE_CHARACTERS, PrinterGone, PrintRefused, prints, printTitle } from './shape.ts';

const NOTED = 'something had been printed';

export const printsRules = defineRules(prints, {
  commands: {
    /** The customer's side says what became of its printers, and what was printed on them. */
    'prints/tellPrinterAdded': {
      ...{ participantId: id, fact },
      name: z.string().max(MAX_PRINT_TITLE_CHARACTERS),
    },
    'prints/tellPrinterGone': { participantId: id, how: PrinterGone, fact },
    'prints/tellPrinted': {
      ...{ printId: id, participantId: id, sizeBytes: z.int().min(1), sha256, fact },
      ...printTitle,
    },
    'prints/tellArrived': { printId: id, fact },
    'prints/tellLost': { printId: id, fact },
    'prints/tellRefused': { participantId: id, why: PrintRefused, fact },
  },
  actions: {
    'prints/tellPrinterAdded': 'speak for the computer',
    'prints/tellPrinterGone': 'speak for the computer',
    'prints/tellPrinted': 'speak for the computer',
    'prints/tellArrived': 'speak for the computer',
    'prints/tellLost': 'speak for the computer',
    'prints/tellRefused': 'speak for the computer',
  },
  decide: {
    'prints/tellPrinterAdded': (_slice, { participantId, name, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      return [{ type: 'prints/printerAdded', by: me.id, participantId, fact: number, personal: { name } }];
    },
    'prints/tellPrinterGone': (_slice, { participantId, how, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      return [{ type: 'prints/printerGone', by: me.id, participantId, how, fact: number }];
    },
    'prints/tellPrinted': (
      slice,
      { printId, participantId, sizeBytes, sha256: hash, title, fact: number },
      me,
      view,
    ) => {
      if (view.isOver) return { noted: NOTED };
      if (slice.documents[printId]) return [];
      return [
        {
          ...{ type: 'prints/printed', by: me.id, printId, participantId, sizeBytes, sha256: hash, fact: number },
          personal: { title },
        },
      ];
    },
    'prints/tellArrived': (slice, { printId, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (slice.documents[printId]?.stage !== 'waits') return [];
      return [{ type: 'prints/arrived', by: me.id, printId, fact: number }];
    },
    'prints/tellLost': (slice, { printId, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (slice.documents[printId]?.stage !== 'waits') return [];
      return [{ type: 'prints/lost', by: me.id, printId, fact: number }];
    },
    'prints/tellRefused': (_slice, { participantId, why, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      return [{ type: 'prints/refused', by: me.id, participantId, why, fact: number }];
    },
  },
});
