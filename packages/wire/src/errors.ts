import type { RefusalCode } from '@porch/core';

interface ErrorSpec {
  readonly status: number;
  readonly closeCode: number;
  readonly message: string;
  /** Whether the same, sent again, would be refused again: a fact is sent until it is taken or this is the answer. */
  readonly isFinal: boolean;
}
/** Refusals of what was asked are final; trouble of who was asked, being too fast and not being let in yet are not. */
const passingStatuses = [401, 408, 426, 428, 429, 500, 503];
const spec = (status: number, message: string, isFinal = !passingStatuses.includes(status)): ErrorSpec => ({
  status,
  closeCode: 4000 + status,
  message,
  isFinal,
});

/** Every failure a caller may meet. Codes are part of the protocol: add freely, never rename or reuse. */
export const errorCatalogue = {
  // What core refuses.
  ACCEPTANCE_MISSING: spec(409, 'The customer has not accepted the session yet; wait until they have'),
  ALREADY_ALLOWED: spec(409, 'The customer has allowed this already'),
  UPGRADE_UNFINISHED: spec(
    409,
    'The service was brought up to a newer release and is not done with it; whoever runs it runs: porch-admin upgrade finish',
  ),
  ALREADY_HERE: spec(409, 'They are in the session already; send them away first'),
  ASK_NOT_OPEN: spec(409, 'This ask is closed; ask again'),
  ASKED_ALONE: spec(409, 'One of these is always asked alone, so that it is not overlooked: ask for it by itself'),
  ASK_TOO_SOON: spec(409, 'The same was asked a moment ago; wait for the answer, or a little after a no'),
  BOOKING_CANCELLED: spec(409, 'This booking is cancelled; make a new one'),
  BOOKING_TIME: spec(422, 'A booking is for a moment to come, within a year'),
  CODE_EXPIRED: spec(410, 'This code has expired; ask the technician for a new one'),
  CODE_USED: spec(409, 'This code has been used already; ask the technician for a new one'),
  CODE_WITHDRAWN: spec(410, 'This code was withdrawn; ask the technician for a new one'),
  CUSTOMER_IS_MINOR: spec(409, 'The customer is under age: nothing is recorded, and no camera is asked for'),
  ENTRY_NOT_WAITING: spec(409, 'This queue entry is not waiting any longer'),
  ENTRY_OFFERED: spec(409, 'Somebody else is being offered this person just now; wait a moment'),
  FILE_ID_USED: spec(409, 'A file with this id was offered before; offer it again under a new one'),
  FILE_NOT_OPEN: spec(409, 'This file transfer is not open'),
  FILE_TOO_LARGE: spec(413, 'This file is larger than the desk allows'),
  GRANT_INVALID: spec(400, 'The grant does not fit the ask or its signature does not fit the consent holder'),
  HANDOVER_NOT_OPEN: spec(409, 'This handover is not open'),
  HANDOVER_OPEN: spec(409, 'A handover is open already; take it back first'),
  INVITATION_EXPIRED: spec(410, 'This link has expired; ask the technician for a new one'),
  INVITATION_USED_UP: spec(409, 'This link was used as often as it may be; ask the technician for a new one'),
  INVITATION_WITHDRAWN: spec(410, 'This link was withdrawn; ask the technician for a new one'),
  NOT_ALLOWED_BY_DESK: spec(403, 'The desk does not allow you to ask for this'),
  NOT_GRANTED: spec(403, 'The customer has not allowed this; ask for it first'),
  NOT_POSSIBLE_HERE: spec(409, "This cannot be done at the customer's computer; the consent strip says why"),
  NOT_PRESENT: spec(409, 'You, or whom you mean, are not in this session', false),
  NOT_THEIR_COMPUTER: spec(
    409,
    'The customer says that this computer is not theirs: only its owner can let the desk come back',
  ),
  NOT_THE_CONSENT_HOLDER: spec(403, "Only the program that shows the customer's screen can allow this"),
  NOT_THE_LEAD: spec(403, 'Only the technician who leads the session can do this'),
  NEEDS_DOORSTEP: spec(
    409,
    'The customer shows from a browser, which can only be looked at; ask them to open Doorstep',
  ),
  NO_CONSENT_HOLDER: spec(409, "Doorstep is not running on the customer's computer yet"),
  OUTCOME_LOGGED: spec(409, 'The outcome of this session is logged already'),
  PERMISSION_NEEDS_OTHER: spec(409, 'This permission needs another one first: ask to see before asking to work'),
  SESSION_ENDED: spec(409, 'This session has ended'),
  SESSION_NOT_ENDED: spec(409, 'The session is still open; end it first'),
  SESSION_FULL: spec(409, 'The session has all the participants it can hold'),
  SESSION_TOO_LONG: spec(409, 'So much was written in this session that it takes no more; end it and begin a new one'),
  WORDS_NOT_COMPARED: spec(
    409,
    'Mouse and keyboard are used at this desk only after the check words were compared: ask to see, then ask to compare',
  ),
  WRONG_ROLE: spec(403, 'Your side of the session cannot do this'),
  // What the edges refuse.
  BOOKING_NOT_FOUND: spec(404, 'There is no such booking of yours'),
  BOOKING_TIME_SKIPPED: spec(422, 'The clocks go forward over this time on that day; choose another one'),
  TIME_ZONE_UNKNOWN: spec(422, 'This is no time zone; one looks like Europe/Oslo'),
  CODE_MISTYPED: spec(422, 'One of the digits is wrong; look at the code once more'),
  CODE_SECOND_NEEDED: spec(
    428,
    'Too many wrong codes were tried at this desk; ask the technician for the second number, too',
  ),
  CODE_UNKNOWN: spec(404, 'No open session has this code; ask the technician to read it again'),
  DESK_CLOSED: spec(409, 'The desk is closed now; the page says when it opens'),
  QUEUE_FULL: spec(409, 'So many wait already that the desk takes no more requests just now; please call instead'),
  KNOWN_FAULT_NOT_FOUND: spec(404, 'This known fault is over'),
  DIRECTORY_DOWN: spec(503, 'The directory does not answer; call the desk, or try again in a moment'),
  DIRECTORY_REFUSED: spec(401, 'The sign-in did not work; begin again on the request page'),
  DIRECTORY_NEEDED: spec(401, 'Sign in first: this desk helps people whom its directory knows'),
  DEVICE_NOT_FOUND: spec(404, 'The desk may not connect to such a device, or not any longer'),
  DEVICE_OFFLINE: spec(409, 'The device is not on just now; send an invitation or give a code instead'),
  DEVICE_BUSY: spec(409, 'Somebody is in a session at this device already'),
  DEVICE_NOT_KEPT: spec(409, 'A device is kept only in a session in which the customer allowed it'),
  ENTRY_NOT_FOUND: spec(404, 'There is no such queue entry'),
  HELLO_UNPROVEN: spec(401, 'The hello does not prove the keys that it names; connect again'),
  HANDOVER_NOT_FOUND: spec(404, 'There is no such handover for you'),
  ADDRESS_INVALID: spec(422, 'This is no address for that way: an email address or a telephone number is needed'),
  WAY_NOT_SET_UP: spec(409, 'The desk has not set up this way of sending; choose another one'),
  INVALID_REQUEST: spec(400, 'The request does not have the right form'),
  CHANGED_MEANWHILE: spec(412, 'Somebody changed it meanwhile; look at it as it is now, and say it again'),
  ONCE_REUSED: spec(422, 'This Idempotency-Key was used for something else; take a new one'),
  ONCE_UNDER_WAY: spec(409, 'The same is being done just now; ask again in a moment', false),
  ONCE_UNKNOWN: spec(
    409,
    'Whether this was done is not known: the service stopped while it did it. Look, and ask with a new key',
  ),
  METHOD_NOT_ALLOWED: spec(405, 'This cannot be done here in that way; the header Allow says what can'),
  CURSOR_UNKNOWN: spec(400, 'This place in a list belongs to another question; ask for the first page'),
  INVITATION_UNKNOWN: spec(404, 'This link does not lead to an open session'),
  MESSAGE_INVALID: spec(400, 'The message does not match the protocol'),
  MESSAGE_TOO_LARGE: spec(413, 'The message is larger than allowed'),
  LINK_NOT_SHOWN: spec(410, 'The secret that this link was kept with is gone, so it cannot be shown; invite them anew'),
  NOT_FOUND: spec(404, 'There is nothing here'),
  OUT_OF_ORDER: spec(400, 'The message came at a moment where it makes no sense', false),
  PASS_NOT_FOR_THIS: spec(403, 'What you came in with does not open this'),
  PROTOCOL_VERSION: spec(426, 'This program speaks another version of the protocol; update it'),
  REPLACED: spec(409, 'The same participant connected from somewhere else'),
  SCREENSHOT_NOT_FOUND: spec(404, 'This session has no such screenshot, or it cannot be opened any longer'),
  SESSION_NOT_FOUND: spec(404, 'No session has this id that you may see'),
  SIGN_IN_FAILED: spec(401, 'The address or the password is wrong'),
  SIGN_IN_NEEDED: spec(401, 'Sign in first'),
  NOT_YOUR_ROLE: spec(403, 'Your role does not allow this'),
  PASS_INVALID: spec(401, 'The pass for this connection is unknown or too old; fetch a new one'),
  TICKET_NOT_FOUND: spec(404, 'The ticket system has no such ticket'),
  TICKET_SYSTEM_DOWN: spec(503, 'The ticket system does not answer; what is written is kept and delivered later'),
  TOO_MANY_ATTEMPTS: spec(429, 'Too many attempts; wait a little and try again'),
  WORK_NEEDED: spec(
    428,
    'Many wrong passwords were tried for this address; a program has to compute before it tries again',
  ),
  TOO_MANY_DISPLAYS: spec(429, 'Nobody looks at so many displays at once; close some'),
  TOO_MANY_MESSAGES: spec(429, 'Too many messages in a short time'),
  RECORDS_DOWN: spec(503, 'The records cannot be reached just now; nothing was changed, try again in a moment'),
  SILENT: spec(408, 'Nothing was heard for too long'),
  STOPPING: spec(503, 'The service is restarting; connect again in a moment'),
  WEBHOOK_REFUSED: spec(401, 'The webhook is not signed rightly, is too old or came before'),
  INTERNAL: spec(500, 'The service failed; its log has the details'),
} as const satisfies Record<string, ErrorSpec> & Record<RefusalCode, ErrorSpec>;

export type ErrorCode = keyof typeof errorCatalogue;

export const isErrorCode = (code: unknown): code is ErrorCode =>
  typeof code === 'string' && Object.hasOwn(errorCatalogue, code);

/** A failure that is part of the contract. Anything else that is thrown is a bug in this process. */
export class AppError extends Error {
  override readonly name = 'AppError';
  readonly code: ErrorCode;
  readonly details: Readonly<Record<string, unknown>>;

  constructor(code: ErrorCode, details: Record<string, unknown> = {}, options?: ErrorOptions) {
    super(errorCatalogue[code].message, options);
    this.code = code;
    this.details = details;
  }

  get spec(): ErrorSpec {
    return errorCatalogue[this.code];
  }
}
