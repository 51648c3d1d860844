import { z } from 'zod';
import type { LedgerWords } from '@porch/words/ledger/shape';
import { defineShape } from '../../ability/ability-shape.ts';
import { endsWithLeave } from '../../ability/ends-with-leave.ts';
import { count, fact, id } from '../../ability/fields.ts';

/** So much of what a command line prints stands in one entry. */
export const MAX_LINE_PRINTED_CHARACTERS = 3_000;
/** The program's path, and the folder's. */
export const MAX_LINE_PROGRAM_CHARACTERS = 200;
export const MAX_LINE_FOLDER_CHARACTERS = 400;
/** How a command line ended: its program went, the technician closed it, the person there did, or it was not allowed any longer. */
export const CommandLineEnd = z.enum(['left', 'closed', 'closed-there', 'broken-off']);
export type CommandLineEnd = z.infer<typeof CommandLineEnd>;
/** What the desk is asked for on a device whose label asks for care. */
export const COMMAND_LINE_RISK = 'command-line/open';
/** Which program it is, and where it began. */
export const linePlace = {
  program: z.string().max(MAX_LINE_PROGRAM_CHARACTERS),
  folder: z.string().max(MAX_LINE_FOLDER_CHARACTERS),
};
const MAX_NAMED_CHARACTERS = 100;
/** What a folder is called where leave is asked for a command line in it; the home folder has no name. */
export const namedFolder = (folder: string): string => folder.slice(-MAX_NAMED_CHARACTERS) || '~';

export interface CommandLineInSession {
  readonly byId: string;
  readonly standing: 'open' | 'over';
  readonly how: CommandLineEnd | undefined;
  readonly code: number | undefined;
  readonly mayGoOn: boolean;
}
export type CommandLineSlice = Readonly<Record<string, CommandLineInSession>>;

interface Closed {
  readonly how: CommandLineEnd;
  readonly code?: number | undefined;
  readonly mayGoOn?: true | undefined;
}
function closedInWords(e: Closed, { ended, mayGoOn }: LedgerWords['commandLine']): string {
  const what =
    e.how === 'left' && e.code !== undefined && e.code !== 0 ? ended.code({ code: String(e.code) }) : ended[e.how];
  return e.mayGoOn ? mayGoOn({ what }) : what;
}

/** Whether it may still be said how it ended. */
export const mayClose = (line: CommandLineInSession | undefined): boolean =>
  line?.standing === 'open' || (line?.standing === 'over' && line.how === undefined);

/** A command line at the customer's computer, as the person who is signed in there. */
export const commandLine = defineShape({
  name: 'command-line',
  version: 1,
  since: 4,
  permissions: { 'use-command-line': { shortName: 'command-line', restsInPrivate: true } },
  events: {
    /** The customer's side began it for this participant. */
    'command-line/opened': {
      ...{ lineId: id, participantId: id, fact },
      personal: z.strictObject(linePlace).optional(),
    },
    /** What stood on it: as it was printed, never as keys were pressed. */
    'command-line/printed': {
      ...{ lineId: id, fact },
      personal: z.strictObject({ text: z.string().max(MAX_LINE_PRINTED_CHARACTERS) }).optional(),
    },
    'command-line/closed': {
      ...{ lineId: id, how: CommandLineEnd, code: z.int().optional(), fact },
      /** Characters that it printed and that stand in no entry. */
      unsaid: count,
      /** Something that was begun on it could not be ended, or cannot be known to have ended. */
      mayGoOn: z.literal(true).optional(),
    },
  },
  initial: {} as CommandLineSlice,
  evolve: {
    'command-line/opened': (s, { lineId, participantId }): CommandLineSlice => ({
      [lineId]: { byId: participantId, standing: 'open', how: undefined, code: undefined, mayGoOn: false },
      ...s,
    }),
    'command-line/closed': (s, { lineId, how, code, mayGoOn }): CommandLineSlice => {
      const known = s[lineId];
      const over = { standing: 'over', how, code, mayGoOn: mayGoOn === true } as const;
      return known ? { ...s, [lineId]: { ...known, ...over } } : s;
    },
  },
  ...endsWithLeave<CommandLineInSession>('use-command-line', (line) =>
    line.standing === 'open' ? { ...line, standing: 'over' } : line,
  ),
  words: (book) => book.commandLine,
  tell: {
    'command-line/opened': {
      technician: (e, { words, nameOf }) =>
        words.opened({ who: nameOf(e.participantId), folder: e.personal?.folder ?? '…' }),
      customer: (e, { words, technician }) =>
        words.opened({ who: technician(e.participantId), folder: e.personal?.folder ?? '…' }),
    },
    'command-line/printed': {
      technician: (e, { words }) => words.printed({ text: e.personal?.text ?? '…' }),
      customer: (e, { words }) => words.printed({ text: e.personal?.text ?? '…' }),
    },
    'command-line/closed': {
      technician: (e, { words }) => closedInWords(e, words),
      customer: (e, { words }) => closedInWords(e, words),
    },
  },
  inStory: ['command-line/opened', 'command-line/closed'],
});
