import { z } from 'zod';
import { defineShape, type Handed } from '../../ability/ability-shape.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';

/** What a document is called, as the program that printed it says. */
export const MAX_PRINT_TITLE_CHARACTERS = 120;
export const printTitle = { title: z.string().max(MAX_PRINT_TITLE_CHARACTERS) };
/** Why something that was printed went to nobody. */
export const PrintRefused = z.enum(['no-pdf', 'too-large', 'no-room', 'somebody-else']);
export type PrintRefused = z.infer<typeof PrintRefused>;
/** Why there is no printer any longer: it was taken away, or the computer's print system let go of it. */
export const PrinterGone = z.enum(['closed', 'broken']);
export type PrinterGone = z.infer<typeof PrinterGone>;

export interface Printout {
  readonly fromId: string;
  readonly toId: string;
  readonly title: string | undefined;
  readonly sizeBytes: number;
  readonly stage: 'waits' | 'arrived' | 'lost';
}
export interface PrintsSlice {
  /** For whom a printer stands in the list of the customer's computer. */
  readonly printersFor: readonly string[];
  /** What was printed, the newest first. */
  readonly documents: Readonly<Record<string, Printout>>;
}

const stages = { waits: 'moving', arrived: 'arrived', lost: 'failed' } as const satisfies Record<
  Printout['stage'],
  Handed['stage']
>;

function withStage(s: PrintsSlice, printId: string, stage: Printout['stage']): PrintsSlice {
  const known = s.documents[printId];
  return known ? { ...s, documents: { ...s.documents, [printId]: { ...known, stage } } } : s;
}

/** Whose it is, and what it is called. */
const documentOf = (s: PrintsSlice, { printId, by }: { printId: string; by: string }, unnamed: string) => ({
  toId: s.documents[printId]?.toId ?? by,
  title: s.documents[printId]?.title ?? unnamed,
});

/** What still waits for somebody does not reach them any longer. */
const loseFor = (s: PrintsSlice, isTheirs: (toId: string) => boolean): PrintsSlice => ({
  printersFor: s.printersFor.filter((one) => !isTheirs(one)),
  documents: Object.fromEntries(
    Object.entries(s.documents).map(([key, one]) => [
      key,
      one.stage === 'waits' && isTheirs(one.toId) ? { ...one, stage: 'lost' as const } : one,
    ]),
  ),
});

/** What is printed at the customer's computer comes out at the technician's, as a document. */
export const prints = defineShape({
  name: 'prints',
  version: 1,
  since: 4,
  permissions: { 'take-prints': { shortName: 'prints' } },
  events: {
    /** A printer stands in the computer's list: what is printed on it goes to this participant. */
    'prints/printerAdded': {
      ...{ participantId: id, fact },
      personal: z.strictObject({ name: z.string().max(MAX_PRINT_TITLE_CHARACTERS) }).optional(),
    },
    'prints/printerGone': { participantId: id, how: PrinterGone, fact },
    /** Somebody printed on it. */
    'prints/printed': {
      ...{ printId: id, participantId: id, sizeBytes: z.int().min(1), sha256, fact },
      personal: z.strictObject(printTitle).optional(),
    },
    /** It has arrived at the technician's. */
    'prints/arrived': { printId: id, fact },
    /** What waited there is not there any longer: the computer restarted, or its program did. */
    'prints/lost': { printId: id, fact },
    'prints/refused': { participantId: id, why: PrintRefused, fact },
  },
  initial: { printersFor: [], documents: {} } as PrintsSlice,
  evolve: {
    'prints/printerAdded': (s, { participantId }): PrintsSlice => ({
      ...s,
      printersFor: [...s.printersFor.filter((one) => one !== participantId), participantId],
    }),
    'prints/printerGone': (s, { participantId }) => ({
      ...s,
      printersFor: s.printersFor.filter((one) => one !== participantId),
    }),
    'prints/printed': (s, { printId, by, participantId, sizeBytes, personal }): PrintsSlice => ({
      ...s,
      documents: {
        [printId]: { fromId: by, toId: participantId, title: personal?.title, sizeBytes, stage: 'waits' },
        ...s.documents,
      },
    }),
    'prints/arrived': (s, { printId }) => withStage(s, printId, 'arrived'),
    'prints/lost': (s, { printId }) => withStage(s, printId, 'lost'),
  },
  fell: (s, permission, participantId) =>
    permission === 'take-prints' ? loseFor(s, (toId) => toId === participantId) : s,
  left: (s, participantId, wasHolder) => loseFor(s, (toId) => wasHolder || toId === participantId),
  ended: (s) => loseFor(s, () => true),
  words: (book) => book.prints,
  tell: {
    'prints/printerAdded': {
      technician: (e, { words, nameOf }) =>
        words.technician.added({ who: nameOf(e.participantId), name: e.personal?.name ?? '…' }),
      customer: (e, { words, technician }) =>
        words.customer.added({ who: technician(e.participantId), name: e.personal?.name ?? '…' }),
    },
    'prints/printerGone': {
      technician: (e, { words, nameOf }) => words.technician.gone[e.how]({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.gone[e.how]({ who: technician(e.participantId) }),
    },
    'prints/printed': {
      technician: (e, { words, speech, nameOf }) =>
        words.technician.printed({
          who: nameOf(e.participantId),
          title: e.personal?.title ?? words.document,
          size: speech.bytes(e.sizeBytes),
          hash: e.sha256.slice(0, 12),
        }),
      customer: (e, { words, speech, technician }) =>
        words.customer.printed({
          who: technician(e.participantId),
          title: e.personal?.title ?? words.document,
          size: speech.bytes(e.sizeBytes),
        }),
    },
    'prints/arrived': {
      technician: (e, { words, nameOf }, s) => {
        const { toId, title } = documentOf(s, e, words.document);
        return words.technician.arrived({ who: nameOf(toId), title });
      },
      customer: (e, { words, technician }, s) => {
        const { toId, title } = documentOf(s, e, words.document);
        return words.customer.arrived({ who: technician(toId), title });
      },
    },
    'prints/lost': {
      technician: (e, { words, nameOf }, s) => {
        const { toId, title } = documentOf(s, e, words.document);
        return words.technician.lost({ who: nameOf(toId), title });
      },
      customer: (e, { words, technician }, s) => {
        const { toId, title } = documentOf(s, e, words.document);
        return words.customer.lost({ who: technician(toId), title });
      },
    },
    'prints/refused': {
      technician: (e, { words }) => words.technician.refused[e.why],
      customer: (e, { words }) => words.customer.refused[e.why],
    },
  },
  handed: ({ documents }) =>
    Object.values(documents).map(({ title, sizeBytes, fromId, stage }) => ({
      ...{ name: title, sizeBytes, fromId },
      stage: stages[stage],
    })),
  inStory: ['prints/arrived'],
});
