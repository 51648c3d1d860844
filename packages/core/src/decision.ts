/** Why a command is refused. The wire's error catalogue has a row for each of these. */
export type RefusalCode =
  | 'ACCEPTANCE_MISSING'
  | 'ALREADY_ALLOWED'
  | 'ALREADY_HERE'
  | 'ASK_NOT_OPEN'
  | 'ASKED_ALONE'
  | 'ASK_TOO_SOON'
  | 'BOOKING_CANCELLED'
  | 'BOOKING_TIME'
  | 'CODE_EXPIRED'
  | 'CODE_USED'
  | 'CODE_WITHDRAWN'
  | 'CUSTOMER_IS_MINOR'
  | 'ENTRY_NOT_WAITING'
  | 'ENTRY_OFFERED'
  | 'FILE_ID_USED'
  | 'FILE_KIND'
  | 'FILE_NOT_OPEN'
  | 'FILE_TOO_LARGE'
  | 'GRANT_INVALID'
  | 'HANDOVER_NOT_OPEN'
  | 'HANDOVER_OPEN'
  | 'IDENTITY_UNCONFIRMED'
  | 'INVITATION_EXPIRED'
  | 'INVITATION_USED_UP'
  | 'INVITATION_WITHDRAWN'
  | 'LABEL_FORBIDS'
  | 'NEVER_TOGETHER'
  | 'NOT_ALLOWED_BY_DESK'
  | 'NOT_GRANTED'
  | 'NOT_POSSIBLE_HERE'
  | 'NOT_PRESENT'
  | 'NOT_THEIR_COMPUTER'
  | 'NOT_THE_CONSENT_HOLDER'
  | 'NOT_THE_LEAD'
  | 'NEEDS_DOORSTEP'
  | 'NO_CONSENT_HOLDER'
  | 'OUTCOME_LOGGED'
  | 'OUTSIDE_HOURS'
  | 'PERMISSION_NEEDS_OTHER'
  | 'REASON_NEEDED'
  | 'RIGHTS_OTHER_DESK'
  | 'REPLACED'
  | 'SECOND_YES_MISSING'
  | 'SECOND_YES_NOT_OPEN'
  | 'SECOND_YES_OWN'
  | 'SESSION_ENDED'
  | 'SESSION_NOT_ENDED'
  | 'SESSION_FULL'
  | 'SESSION_TOO_LONG'
  | 'STEP_UNKNOWN'
  | 'UPGRADE_UNFINISHED'
  | 'WORDS_NOT_COMPARED'
  | 'WRONG_ROLE';

export interface Refusal {
  readonly refused: RefusalCode;
}

/** What happens because of a command, or why nothing does. */
export type Decision<E> = readonly E[] | Refusal;

export const refuse = (refused: RefusalCode): Refusal => ({ refused });

export function isRefusal<E>(decision: Decision<E>): decision is Refusal {
  return 'refused' in decision;
}
