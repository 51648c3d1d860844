import type { Participant } from '../kernel/state.ts';
import { partMay } from '../people/part.ts';
import type { SessionEvent } from '../session/session-events.ts';

/** Whoever is told of an entry: a participant, or one whose program may come back for the customer's copy. */
export type Reader = Pick<Participant, 'id' | 'part' | 'proof'>;

/**
 * Whether somebody may read the personal part of an entry. Everybody gets the entry itself, so that the chain is the same
 * for all; what is withheld stays behind its salted hash. Notes, briefs and addresses are the desk's; who the customer is
 * stays between the desk and whoever showed that they are that person, or said it.
 */
export function mayReadPersonal(event: SessionEvent, reader: Reader): boolean {
  if (partMay(reader.part, "read the desk's own")) return true;
  switch (event.type) {
    case 'handoverRequested':
    case 'outcomeLogged':
    case 'invitationFailed':
      return false;
    case 'customerExpected':
    case 'customerIntroduced':
      return event.by === reader.id || reader.proof !== undefined;
    case 'sessionPrepared': {
      // Older sessions said in their first entry whom they were for.
      const { customerName, customerAddress, saidBefore } = event.personal ?? {};
      return reader.proof !== undefined || (!customerName && !customerAddress && !saidBefore?.length);
    }
    default:
      return true;
  }
}
