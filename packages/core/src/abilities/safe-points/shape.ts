import type { Speech } from '@porch/words';
import type { LedgerWords } from '@porch/words/ledger/shape';
import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id } from '../../ability/fields.ts';

export interface PointInSession {
  readonly byId: string;
  /** Missing once erased. */
  readonly name: string | undefined;
  readonly isUsed: boolean;
  /** It stays after the session until then. */
  readonly keptUntilMs: number | undefined;
}
export type SafePointsSlice = Readonly<Record<string, PointInSession>>;

const personal = z.strictObject({ name: z.string().max(80) }).optional();
const nameOfPoint = (e: Named) => e.personal?.name ?? '…';
type Words = LedgerWords['safePoints'];
interface Named {
  readonly personal?: { readonly name: string } | undefined;
}
interface Made extends Named {
  readonly files: number;
  readonly sizeBytes: number;
  readonly services: number;
  readonly packages: number;
}
function madeInWords(e: Made, who: string, { told }: Words, speech: Pick<Speech, 'bytes'>): string {
  const { files, services, packages } = e;
  return told.made({ who, name: nameOfPoint(e), files, size: speech.bytes(e.sizeBytes), services, packages });
}
const undoneInWords = (e: Named & { readonly isWhole: boolean }, who: string, { told }: Words): string =>
  told[e.isWhole ? 'wentBack' : 'partly']({ who, name: nameOfPoint(e) });
const changed = (s: SafePointsSlice, pointId: string, change: Partial<PointInSession>): SafePointsSlice => {
  const known = s[pointId];
  return known ? { ...s, [pointId]: { ...known, ...change } } : s;
};

/** What a computer was like before something was changed: saved, compared, gone back to in one step. */
export const safePoints = defineShape({
  name: 'safe-points',
  version: 1,
  since: 4,
  permissions: { 'make-safe-points': { shortName: 'safe' } },
  events: {
    'safe-points/made': {
      ...{ pointId: id, participantId: id, files: count, sizeBytes: count, services: count, packages: count },
      ...{ fact, personal },
    },
    /** It was gone back to; not all of it could be where it is not whole. */
    'safe-points/undone': { pointId: id, participantId: id, isWhole: z.boolean(), fact, personal },
    /** The person at the computer let it stay there after the session. */
    'safe-points/kept': { pointId: id, participantId: id, untilMs: count, fact, personal },
    'safe-points/dropped': { pointId: id, participantId: id, fact, personal },
  },
  initial: {} as SafePointsSlice,
  evolve: {
    'safe-points/made': (s, { pointId, participantId, personal: own }): SafePointsSlice => ({
      [pointId]: { byId: participantId, name: own?.name, isUsed: false, keptUntilMs: undefined },
      ...s,
    }),
    'safe-points/undone': (s, { pointId }) => changed(s, pointId, { isUsed: true }),
    'safe-points/kept': (s, { pointId, untilMs }) => changed(s, pointId, { keptUntilMs: untilMs }),
    'safe-points/dropped': (s, { pointId }) => {
      const { [pointId]: _dropped, ...others } = s;
      return others;
    },
  },
  words: (book) => book.safePoints,
  tell: {
    'safe-points/made': {
      technician: (e, { words, speech, nameOf }) => madeInWords(e, nameOf(e.participantId), words, speech),
      customer: (e, { words, speech, technician }) => madeInWords(e, technician(e.participantId), words, speech),
    },
    'safe-points/undone': {
      technician: (e, { words, nameOf }) => undoneInWords(e, nameOf(e.participantId), words),
      customer: (e, { words, technician }) => undoneInWords(e, technician(e.participantId), words),
    },
    'safe-points/kept': {
      technician: (e, { words, speech }) => words.told.kept({ name: nameOfPoint(e), until: speech.date(e.untilMs) }),
      customer: (e, { words, speech }) => words.told.keptHere({ name: nameOfPoint(e), until: speech.date(e.untilMs) }),
    },
    'safe-points/dropped': {
      technician: (e, { words, nameOf }) => words.told.dropped({ who: nameOf(e.participantId), name: nameOfPoint(e) }),
      customer: (e, { words, technician }) =>
        words.told.dropped({ who: technician(e.participantId), name: nameOfPoint(e) }),
    },
  },
  inStory: ['safe-points/made', 'safe-points/undone', 'safe-points/kept'],
});
