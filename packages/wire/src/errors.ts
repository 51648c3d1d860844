import type { RefusalCode } from '@porch/core';
import { words as english } from '@porch/words/refusals/english';

interface ErrorSpec {
  readonly status: number;
  readonly closeCode: number;
  /** Whether the same, sent again, would be refused again: a fact is sent until it is taken or this is the answer. */
  readonly isFinal: boolean;
}
/** Refusals of what was asked are final; trouble of who was asked, being too fast and not being let in yet are not. */
const passingStatuses = [401, 408, 426, 428, 429, 500, 503];
const spec = (status: number, isFinal = !passingStatuses.includes(status)): ErrorSpec => ({
  status,
  closeCode: 4000 + status,
  isFinal,
});

/** Every failure a caller may meet. Codes are part of the protocol: add freely, never rename or reuse. */
export const errorCatalogue = {
  // What core refuses.
  ACCEPTANCE_MISSING: spec(409),
  ALREADY_ALLOWED: spec(409),
  UPGRADE_UNFINISHED: spec(409),
  ALREADY_HERE: spec(409),
  ASK_NOT_OPEN: spec(409),
  ASKED_ALONE: spec(409),
  ASK_TOO_SOON: spec(409),
  BOOKING_CANCELLED: spec(409),
  BOOKING_TIME: spec(422),
  CODE_EXPIRED: spec(410),
  CODE_USED: spec(409),
  CODE_WITHDRAWN: spec(410),
  CUSTOMER_IS_MINOR: spec(409),
  ENTRY_NOT_WAITING: spec(409),
  ENTRY_OFFERED: spec(409),
  FILE_ID_USED: spec(409),
  FILE_KIND: spec(409),
  FILE_NOT_OPEN: spec(409),
  FILE_TOO_LARGE: spec(413),
  GRANT_INVALID: spec(400),
  HANDOVER_NOT_OPEN: spec(409),
  HANDOVER_OPEN: spec(409),
  IDENTITY_UNCONFIRMED: spec(409),
  INVITATION_EXPIRED: spec(410),
  INVITATION_USED_UP: spec(409),
  INVITATION_WITHDRAWN: spec(410),
  LABEL_FORBIDS: spec(409),
  NEVER_TOGETHER: spec(409),
  NOT_ALLOWED_BY_DESK: spec(403),
  NOT_GRANTED: spec(403),
  NOT_POSSIBLE_HERE: spec(409),
  NOT_PRESENT: spec(409, false),
  NOT_THEIR_COMPUTER: spec(409),
  NOT_THE_CONSENT_HOLDER: spec(403),
  NOT_THE_LEAD: spec(403),
  NEEDS_DOORSTEP: spec(409),
  NO_CONSENT_HOLDER: spec(409),
  OUTCOME_LOGGED: spec(409),
  OUTSIDE_HOURS: spec(409),
  PERMISSION_NEEDS_OTHER: spec(409),
  SESSION_ENDED: spec(409),
  SESSION_NOT_ENDED: spec(409),
  SESSION_FULL: spec(409),
  SESSION_TOO_LONG: spec(409),
  STEP_UNKNOWN: spec(404),
  WORDS_NOT_COMPARED: spec(409),
  WRONG_ROLE: spec(403),
  // What the edges refuse.
  BOOKING_NOT_FOUND: spec(404),
  BOOKING_TIME_SKIPPED: spec(422),
  TIME_ZONE_UNKNOWN: spec(422),
  CODE_MISTYPED: spec(422),
  CODE_SECOND_NEEDED: spec(428),
  CODE_UNKNOWN: spec(404),
  DESK_CLOSED: spec(409),
  QUEUE_FULL: spec(409),
  KNOWN_FAULT_NOT_FOUND: spec(404),
  NOTE_CHANGED: spec(409),
  NOTE_NOT_FOUND: spec(404),
  NOTE_OF_YOUR_OWN: spec(403),
  TOO_MANY_NOTES: spec(409),
  ACTION_CHANGED: spec(409),
  ACTION_FAULTY: spec(422),
  ACTION_NOT_APPROVED: spec(409),
  ACTION_NOT_FOUND: spec(404),
  ACTION_NOT_REVIEWED: spec(409),
  ACTION_OF_YOUR_OWN: spec(403),
  PACK_CHANGED: spec(422),
  TOO_MANY_ACTIONS: spec(409),
  DIRECTORY_DOWN: spec(503),
  DIRECTORY_REFUSED: spec(401),
  DIRECTORY_NEEDED: spec(401),
  DEVICE_NOT_FOUND: spec(404),
  DEVICE_OFFLINE: spec(409),
  DEVICE_BUSY: spec(409),
  DEVICE_NOT_KEPT: spec(409),
  ENTRY_NOT_FOUND: spec(404),
  HELLO_UNPROVEN: spec(401),
  HANDOVER_NOT_FOUND: spec(404),
  ADDRESS_INVALID: spec(422),
  WAY_NOT_SET_UP: spec(409),
  INVALID_REQUEST: spec(400),
  CHANGED_MEANWHILE: spec(412),
  ONCE_REUSED: spec(422),
  ONCE_UNDER_WAY: spec(409, false),
  ONCE_UNKNOWN: spec(409),
  METHOD_NOT_ALLOWED: spec(405),
  CURSOR_UNKNOWN: spec(400),
  INVITATION_UNKNOWN: spec(404),
  MESSAGE_INVALID: spec(400),
  MESSAGE_TOO_LARGE: spec(413),
  LINK_NOT_SHOWN: spec(410),
  NOT_FOUND: spec(404),
  OUT_OF_ORDER: spec(400, false),
  PASS_NOT_FOR_THIS: spec(403),
  PROTOCOL_VERSION: spec(426),
  REASON_NEEDED: spec(409),
  RIGHTS_OTHER_DESK: spec(409),
  REPLACED: spec(409),
  REPORT_NOT_FOUND: spec(404),
  SECOND_YES_MISSING: spec(409),
  SECOND_YES_NOT_OPEN: spec(409),
  SECOND_YES_OWN: spec(403),
  SCREENSHOT_NOT_FOUND: spec(404),
  SESSION_NOT_FOUND: spec(404),
  SIGN_IN_FAILED: spec(401),
  SIGN_IN_NEEDED: spec(401),
  NOT_YOUR_ROLE: spec(403),
  PASS_INVALID: spec(401),
  TICKET_NOT_FOUND: spec(404),
  TICKET_SYSTEM_DOWN: spec(503),
  TOO_MANY_ATTEMPTS: spec(429),
  WORK_NEEDED: spec(428),
  TOO_MANY_DISPLAYS: spec(429),
  TOO_MANY_MESSAGES: spec(429),
  RECORDS_DOWN: spec(503),
  SILENT: spec(408),
  STOPPING: spec(503),
  WEBHOOK_REFUSED: spec(401),
  INTERNAL: spec(500),
} as const satisfies Record<string, ErrorSpec> & Record<RefusalCode, ErrorSpec>;

export type ErrorCode = keyof typeof errorCatalogue;
/** What a code means, as documents and programs say it; people are told in their language. */
export const errorWords: Readonly<Record<ErrorCode, string>> = english.codes;

export const isErrorCode = (code: unknown): code is ErrorCode =>
  typeof code === 'string' && Object.hasOwn(errorCatalogue, code);

/** A failure that is part of the contract. Anything else that is thrown is a bug in this process. */
export class AppError extends Error {
  override readonly name = 'AppError';
  readonly code: ErrorCode;
  readonly details: Readonly<Record<string, unknown>>;

  constructor(code: ErrorCode, details: Record<string, unknown> = {}, options?: ErrorOptions) {
    super(errorWords[code], options);
    this.code = code;
    this.details = details;
  }

  get spec(): ErrorSpec {
    return errorCatalogue[this.code];
  }
}
