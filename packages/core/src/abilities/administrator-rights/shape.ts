import { z } from 'zod';
import type { LedgerWords } from '@porch/words/ledger/shape';
import { defineShape } from '../../ability/ability-shape.ts';
import { endsWithLeave } from '../../ability/ends-with-leave.ts';
import { fact, id } from '../../ability/fields.ts';

/** How rights were raised: somebody typed an administrator's password there, or the desk gave leave for once. */
export const rightsWays = ['password', 'desk'] as const;
export const RightsWay = z.enum(rightsWays);
export type RightsWay = z.infer<typeof RightsWay>;
/** Why they fell back: given back by hand, their time was over, not allowed any longer, or what held them was ended there. */
export const RightsFell = z.enum(['given-back', 'time-over', 'not-allowed', 'gone']);
export type RightsFell = z.infer<typeof RightsFell>;
/** What the desk is asked for before rights are raised by its leave, or on a device whose label asks for care. */
export const RAISE_RISK = 'administrator-rights/raise';
/** What rights are for, and what was done by them. */
export const MAX_RIGHTS_CHARACTERS = 120;

/** What the service says once for one computer, one session and so many minutes; its signature is what counts there. */
export const rightsLeave = {
  /** Drawn at random when the part that holds rights was installed on that computer. */
  deviceId: z.string().regex(/^[0-9a-f]{32}$/),
  /** By which that computer knows this desk. */
  deskKey: z.string().regex(/^[0-9a-f]{64}$/),
  untilMs: z.int().min(0),
  /** Ed25519, hex. */
  signature: z.string().regex(/^[0-9a-f]{128}$/),
};
export type RightsLeave = z.infer<z.ZodObject<typeof rightsLeave>>;

export interface RaisedInSession {
  readonly byId: string;
  readonly standing: 'leave' | 'raised' | 'fallen';
  readonly way: RightsWay | undefined;
  readonly untilMs: number | undefined;
  /** Missing where the computer has not said it, or could not. */
  readonly fell: RightsFell | undefined;
  /** What the desk signed, once it did. */
  readonly leave: RightsLeave | undefined;
}
export type AdministratorRightsSlice = Readonly<Record<string, RaisedInSession>>;

/** Whether it may still be said why they fell back. */
export const mayFall = (one: RaisedInSession | undefined): boolean =>
  one?.standing === 'raised' || (one?.standing === 'fallen' && one.fell === undefined);
const nothingYet = { way: undefined, untilMs: undefined, fell: undefined, leave: undefined };
const MINUTE_MS = 60_000;

interface Fell {
  readonly why: RightsFell;
  readonly mayGoOn?: true | undefined;
}
const fellInWords = (e: Fell, { fell, mayGoOn }: LedgerWords['administratorRights']): string =>
  e.mayGoOn ? mayGoOn({ what: fell[e.why] }) : fell[e.why];

/** Rights of the computer's administrator, for a while, for what abilities need and for nothing else. */
export const administratorRights = defineShape({
  name: 'administrator-rights',
  version: 1,
  since: 4,
  permissions: { 'raise-rights': { shortName: 'rights', isSensitive: true, restsInPrivate: true } },
  events: {
    /** The service gives leave for one computer, once. */
    'administrator-rights/leave': { raiseId: id, participantId: id, ...rightsLeave },
    /** The customer's side has them now, for this participant. */
    'administrator-rights/raised': {
      ...{ raiseId: id, participantId: id, way: RightsWay, fact },
      minutes: z.int().min(1),
      untilMs: z.int().min(0),
      personal: z.strictObject({ what: z.string().max(MAX_RIGHTS_CHARACTERS) }).optional(),
    },
    /** It was tried, and they are not. */
    'administrator-rights/notRaised': {
      ...{ raiseId: id, participantId: id, fact },
      why: z.enum(['wrong-password', 'not-typed', 'not-there']),
    },
    /** Something was done by them. */
    'administrator-rights/used': {
      ...{ raiseId: id, fact },
      personal: z.strictObject({ what: z.string().max(MAX_RIGHTS_CHARACTERS) }).optional(),
    },
    'administrator-rights/fell': {
      ...{ raiseId: id, why: RightsFell, fact },
      /** What was begun by them could not be ended, or cannot be known to have ended. */
      mayGoOn: z.literal(true).optional(),
    },
  },
  initial: {} as AdministratorRightsSlice,
  evolve: {
    'administrator-rights/leave': (
      s,
      { raiseId, participantId, deviceId, deskKey, untilMs, signature },
    ): AdministratorRightsSlice => ({
      [raiseId]: {
        ...{ byId: participantId, standing: 'leave', ...nothingYet },
        leave: { deviceId, deskKey, untilMs, signature },
      },
      ...s,
    }),
    'administrator-rights/raised': (s, { raiseId, participantId, way, untilMs }): AdministratorRightsSlice => ({
      ...s,
      [raiseId]: {
        ...{ byId: participantId, standing: 'raised', way, untilMs, fell: undefined },
        leave: s[raiseId]?.leave,
      },
    }),
    'administrator-rights/fell': (s, { raiseId, why }): AdministratorRightsSlice => {
      const known = s[raiseId];
      return known && mayFall(known) ? { ...s, [raiseId]: { ...known, standing: 'fallen', fell: why } } : s;
    },
  },
  ...endsWithLeave<RaisedInSession>('raise-rights', (one) =>
    one.standing === 'raised' ? { ...one, standing: 'fallen' } : one,
  ),
  words: (book) => book.administratorRights,
  tell: {
    'administrator-rights/leave': {
      technician: (_e, { words }) => words.leave,
      customer: (_e, { words }) => words.leaveForYou,
    },
    'administrator-rights/raised': {
      technician: (e, { words, nameOf }) =>
        words.raised[e.way]({
          ...{ who: nameOf(e.participantId), minutes: e.minutes, what: e.personal?.what ?? '…' },
        }),
      customer: (e, { words, technician }) =>
        words.raised[e.way]({
          ...{ who: technician(e.participantId), minutes: e.minutes, what: e.personal?.what ?? '…' },
        }),
    },
    'administrator-rights/notRaised': {
      technician: (e, { words }) => words.notRaised[e.why],
      customer: (e, { words }) => words.notRaised[e.why],
    },
    'administrator-rights/used': {
      technician: (e, { words }) => words.used({ what: e.personal?.what ?? '…' }),
      customer: (e, { words }) => words.used({ what: e.personal?.what ?? '…' }),
    },
    'administrator-rights/fell': {
      technician: (e, { words }) => fellInWords(e, words),
      customer: (e, { words }) => fellInWords(e, words),
    },
  },
  inStory: ['administrator-rights/raised', 'administrator-rights/used', 'administrator-rights/fell'],
});

/** Whole minutes of a time, one at least. */
export const minutesOf = (ms: number): number => Math.max(1, Math.round(ms / MINUTE_MS));

/** The rights that a participant has now, and under which number; undefined while they have none. */
export function rightsOf(
  slice: AdministratorRightsSlice,
  participantId: string,
): (RaisedInSession & { readonly raiseId: string }) | undefined {
  const [raiseId, rights] =
    Object.entries(slice).find(([, { byId, standing }]) => standing === 'raised' && byId === participantId) ?? [];
  return raiseId !== undefined && rights ? { raiseId, ...rights } : undefined;
}
