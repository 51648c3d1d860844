import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** An account of a computer, as its desktops are listed. */
export const MAX_ACCOUNT_CHARACTERS = 80;
/** Why nobody came who was asked in: they said no, did not answer, it was taken back, or it failed at the computer. */
export const NotCome = z.enum(['no', 'not-answered', 'taken-back', 'failed']);
export type NotCome = z.infer<typeof NotCome>;
const ofAccount = { account: z.string().max(MAX_ACCOUNT_CHARACTERS) };

/** Somebody at another desktop of the same computer was asked whether they come in. */
export interface Ring {
  readonly byId: string;
  readonly account: string | undefined;
  readonly standing: 'rings' | 'came' | 'not-come';
  /** Missing where the computer has not said it, or could not. */
  readonly why: NotCome | undefined;
}
export interface DesktopsSlice {
  /** Who looked at who is signed in. */
  readonly lookedBy: readonly string[];
  readonly rings: Readonly<Record<string, Ring>>;
}

/** Whether it may still be said why nobody came. */
export const mayNotCome = (one: Ring | undefined): boolean =>
  one?.standing === 'rings' || (one?.standing === 'not-come' && one.why === undefined);

function withRing(s: DesktopsSlice, ringId: string, change: Partial<Ring>): DesktopsSlice {
  const known = s.rings[ringId];
  return known && mayNotCome(known) ? { ...s, rings: { ...s.rings, [ringId]: { ...known, ...change } } } : s;
}
/** What rings for them does not any longer. */
const endFor = (s: DesktopsSlice, isTheirs: (byId: string) => boolean): DesktopsSlice => ({
  ...s,
  rings: Object.fromEntries(
    Object.entries(s.rings).map(([key, one]) => [
      key,
      one.standing === 'rings' && isTheirs(one.byId) ? { ...one, standing: 'not-come' as const } : one,
    ]),
  ),
});
/** Whose desktop it was, as far as that is still known. */
const accountOf = (s: DesktopsSlice, { ringId }: { ringId: string }): string => s.rings[ringId]?.account ?? '…';

/** Several people signed in at one computer: who they are, and asking one of them onto their own desktop. */
export const desktops = defineShape({
  name: 'desktops',
  version: 1,
  since: 4,
  permissions: { 'call-desktops': { shortName: 'desktops', isSensitive: true } },
  events: {
    'desktops/looked': { participantId: id, fact },
    /** Somebody at another desktop is asked whether they come in. */
    'desktops/rung': { ringId: id, participantId: id, fact, personal: z.strictObject(ofAccount).optional() },
    /** They said yes there: their Doorstep comes in, and waits for the technician's yes. */
    'desktops/came': { ringId: id, fact },
    'desktops/notCome': { ringId: id, why: NotCome, fact },
  },
  initial: { lookedBy: [], rings: {} } as DesktopsSlice,
  evolve: {
    'desktops/looked': (s, { participantId }): DesktopsSlice => ({
      ...s,
      lookedBy: [...s.lookedBy.filter((one) => one !== participantId), participantId],
    }),
    'desktops/rung': (s, { ringId, participantId, personal }): DesktopsSlice => ({
      ...s,
      rings: {
        ...s.rings,
        [ringId]: { byId: participantId, account: personal?.account, standing: 'rings', why: undefined },
      },
    }),
    'desktops/came': (s, { ringId }) => withRing(s, ringId, { standing: 'came' }),
    'desktops/notCome': (s, { ringId, why }) => withRing(s, ringId, { standing: 'not-come', why }),
  },
  fell: (s, permission, participantId) =>
    permission === 'call-desktops' ? endFor(s, (byId) => byId === participantId) : s,
  left: (s, participantId, wasHolder) => endFor(s, (byId) => wasHolder || byId === participantId),
  ended: (s) => endFor(s, () => true),
  words: (book) => book.desktops,
  tell: {
    'desktops/looked': {
      technician: (e, { words, nameOf }) => words.technician.looked({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.looked({ who: technician(e.participantId) }),
    },
    'desktops/rung': {
      technician: (e, { words, nameOf }) =>
        words.technician.rung({ who: nameOf(e.participantId), account: e.personal?.account ?? '…' }),
      customer: (e, { words, technician }) =>
        words.customer.rung({ who: technician(e.participantId), account: e.personal?.account ?? '…' }),
    },
    'desktops/came': {
      technician: (e, { words }, s) => words.came({ account: accountOf(s, e) }),
      customer: (e, { words }, s) => words.came({ account: accountOf(s, e) }),
    },
    'desktops/notCome': {
      technician: (e, { words }, s) => words.notCome[e.why]({ account: accountOf(s, e) }),
      customer: (e, { words }, s) => words.notCome[e.why]({ account: accountOf(s, e) }),
    },
  },
  inStory: ['desktops/came'],
});
