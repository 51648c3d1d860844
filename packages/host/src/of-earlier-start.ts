import type { Kit } from './kit.ts';

/**
 * What of an ability's part of the ledger still stands open although this program has just begun: an earlier start of it
 * ended in the middle, by a kill or with its computer, and cannot say so any longer. Nothing in a holder's place to come.
 */
export function ofEarlierStart<T>(
  { connection: { state, participantId } }: Pick<Kit, 'connection'>,
  slice: Readonly<Record<string, T>>,
  isOpen: (one: T) => boolean,
): string[] {
  if (state.holderId !== participantId) return [];
  return Object.entries(slice).flatMap(([id, one]) => (isOpen(one) ? [id] : []));
}
