import type { api } from './index.ts';

/** What documents of the API say of an operation. */
export interface OperationWords {
  readonly summary: string;
  readonly description?: string;
}

/** Apart from the contract itself, since only documents need it, and every page loads the contract. */
export const apiWords: Readonly<Record<keyof typeof api, OperationWords>> = {
  signIn: {
    summary: 'Sign in as a technician',
    description:
      'With `keep: "token"` the answer has a token for the header `Authorization: Bearer …`; with `"cookie"` it sets a cookie, and every change then needs the header `x-porch: 1`. While passwords are guessed, WORK_NEEDED asks for a computation.',
  },
  signOut: {
    summary: 'Sign out: end the sign-in that the request is made with',
  },
  me: {
    summary: 'Who the request is made by',
  },
  preferences: {
    summary: 'What the technician chose for themselves: keys and wheel',
  },
  setPreferences: {
    summary: 'Choose it, whole; what is left out is as at first',
  },
  signIns: {
    summary: 'Where one is signed in, by begin',
  },
  endSignIns: {
    summary: 'End sign-ins of one’s own, with everything that was opened with them',
  },
  colleagues: {
    summary: 'Everybody who works at the desk, by name',
  },
  porch: {
    summary: 'Everything one has before them: who waits, sessions, bookings, handovers, devices',
  },
  porchChanges: {
    summary: 'The porch as it changes',
    description:
      'Server-sent events named `change`: the first is the whole porch, each later one what is other. docs/protocol.md describes them.',
  },
  tickets: {
    summary: 'Tickets of the ticket system, found by words',
  },
  sessions: {
    summary: 'Sessions that one may read, the last prepared first',
    description:
      'All that is said has to fit. Words are beginnings of words that were said, written or done, or of names.',
  },
  startSession: {
    summary: 'Start a session: from nothing, a ticket, somebody who waits, or at a device',
    description:
      'From nothing it is the same session again for as long as nobody came in by its code. With `sessionId` it is safe to ask again.',
  },
  session: {
    summary: 'One session as it is now',
  },
  sessionTelephone: {
    summary: 'Where the customer of a session can be called',
    description: 'As it was given in the queue, with the booking, or in the ticket; it is kept nowhere else.',
  },
  findCallers: {
    summary: 'Whom a telephone number stands for',
    description:
      'With what the desk has of them: who waits, bookings, tickets, devices, and the sessions that one may read. A number may be written with its country or without.',
  },
  keepSystemReport: {
    summary: 'Keep a system report with its session',
    description: 'Only whoever had it read may; kept again it is the same. docs/system-report.md describes it.',
  },
  systemReports: {
    summary: 'System reports that lie with a session, in the order of their keeping',
  },
  systemReport: {
    summary: 'A system report, as it was kept',
  },
  earlierSystemReport: {
    summary: 'The last system report of the same device from a session of before, if there is one',
  },
  earlierSessions: {
    summary: 'Sessions of before with the same customer or at the same device',
    description:
      'The last first. Whoever may read a session sees of them when they were, whose, how they ended and what was noted; `mayRead` says which may be read whole.',
  },
  sessionKnowledge: {
    summary: 'Knowledge notes that fit a session, by the words of its ticket',
  },
  knowledgeNotes: {
    summary: 'Knowledge notes: reviewed ones, and drafts',
    description: 'With words the best first, else the last written.',
  },
  knowledgeNote: {
    summary: 'One version of a knowledge note, with its text',
  },
  writeKnowledgeNote: {
    summary: 'Write a draft of a knowledge note',
    description:
      'A note that is in use stays in use until somebody else has reviewed the draft. `basedOn` is the version that was read; when there is another one since, it is NOTE_CHANGED.',
  },
  reviewKnowledgeNote: {
    summary: 'Say that a draft of somebody else is good: it is in use from now on',
  },
  withdrawKnowledgeNote: {
    summary: 'Take a version out of use, or throw a draft away',
  },
  importKnowledgeNotes: {
    summary: 'Bring notes in from files, as drafts',
    description:
      'A file says in its front matter (YAML) `title`, `topic` and `labels`; its name is `name.language.md`.',
  },
  exportKnowledgeNotes: {
    summary: 'All notes that are in use, as files',
  },
  draft: {
    summary: 'A draft of the note, in order of time, and the minutes spent',
  },
  runbookActions: {
    summary: 'Actions of the runbook that one may see, the last written first',
  },
  runbookAction: {
    summary: 'One version of an action, whole, with its versions',
  },
  writeRunbookAction: {
    summary: 'Write a draft of an action',
    description:
      'What is in use stays in use until the draft was reviewed by somebody else and approved. `basedOn` is the version that was read; when there is another one since, it is ACTION_CHANGED. What does not hold together is ACTION_FAULTY, with `faults`.',
  },
  reviewRunbookAction: {
    summary: 'Say that a draft of somebody else is right',
  },
  approveRunbookAction: {
    summary: 'Put a reviewed action into use, in place of the version before it',
  },
  withdrawRunbookAction: {
    summary: 'Take a version out of use, or throw a draft away',
  },
  importPack: {
    summary: 'Bring the files of a pack in, as drafts',
    description:
      'Each file by itself: what is wrong with one keeps none of the others out. A pack that says it is signed, and is not as it was signed, is refused as a whole.',
  },
  exportPack: {
    summary: 'All actions in use that one may see, as the files of a pack that this desk signs',
  },
  chooseRunbookAction: {
    summary: 'Choose an action for a session: its ledger says which very text may be run there',
  },
  giveRightsLeave: {
    summary: 'Leave for administrator rights on one computer, once, signed by the desk in the session’s ledger',
  },
  ledger: {
    summary: 'Every entry of a session, to be verified',
    description: 'Rows are what was hashed, character by character: moments in them are milliseconds since 1970.',
  },
  eraseSession: {
    summary: 'Erase what is personal in a session; that it was, and by which rule, stays',
  },
  joinLive: {
    summary: 'A pass for one live connection to a session, to be used at once',
  },
  answerHandover: {
    summary: 'Accept or decline a session that a colleague hands over',
  },
  giveSecondYes: {
    summary: 'Say yes or no, as the second person, to what somebody is about to do on a careful device',
  },
  lookAtOverride: { summary: 'Say that one has looked at what was done outside of its hours' },
  newCode: {
    summary: 'A new one-time code for a session; the one before is withdrawn',
  },
  withdrawCode: {
    summary: 'Withdraw the one-time code of a session',
  },
  invitations: {
    summary: 'Invitations into a session, by when they were made',
  },
  invite: {
    summary: 'Invite into a session: a link, and whatever carries it',
  },
  previewInvitation: {
    summary: 'What would be sent, with a link that leads nowhere yet',
  },
  withdrawInvitation: {
    summary: 'Withdraw an invitation: its link opens nothing any more',
  },
  invitationLink: {
    summary: 'The link of an invitation',
  },
  invitationQr: {
    summary: 'The link as a picture for a telephone',
  },
  invitationJoinFile: {
    summary: 'A page to hand on that opens the link',
  },
  invitationCalendar: {
    summary: 'A calendar entry with the link',
  },
  keepScreenshot: {
    summary: 'Put a screenshot into the records of a session; answers with all of them',
    description:
      'Its announcement has to be in the ledger already, with the same id and hash. Kept once, however often it is sent.',
  },
  screenshots: {
    summary: 'Screenshots in the records of a session, by when they were kept',
  },
  screenshot: {
    summary: 'One screenshot',
  },
  myState: {
    summary: 'Where one stands for routing',
  },
  setMyState: {
    summary: 'Say that one is here or away',
  },
  notNow: {
    summary: 'Not now: somebody who is offered goes on to the next technician',
  },
  sayToEntry: {
    summary: 'Write to somebody who waits',
  },
  knownFaults: {
    summary: 'Known faults that are not over, by when they were published',
  },
  publishKnownFault: {
    summary: 'Publish a known fault',
  },
  endKnownFault: {
    summary: 'Say that a known fault is over',
  },
  bookings: {
    summary: 'One’s own bookings of today and to come, by time',
  },
  booking: {
    summary: 'One booking, and its version to change it with',
  },
  book: {
    summary: 'Book a session at a time; the customer is told by mail',
  },
  moveBooking: {
    summary: 'Move a booking to another time; the customer is told',
  },
  cancelBooking: {
    summary: 'Cancel a booking; the customer is told',
  },
  bookingCalendar: {
    summary: 'A booking as a calendar entry (RFC 5545)',
  },
  devices: {
    summary: 'Devices that may be reached; with words, those that no longer may as well',
  },
  deviceVisits: {
    summary: 'Every visit to a device, the last first',
  },
  forgetDevice: {
    summary: 'Give up that a device may be reached',
  },
  desk: {
    summary: 'What the desk says of itself: whether it is open, how long one waits, known faults',
  },
  join: {
    summary: 'Come into a session by a code or a link',
    description:
      'As a page the answer sets a cookie; as a program it has a token for the header `Authorization: Bearer …`. A second number is asked for while codes are guessed.',
  },
  door: {
    summary: 'The session that one came into',
  },
  doorLive: { summary: 'A pass for one live connection to one’s session, to be used at once' },
  doorDownload: {
    summary: 'A path that fetches Doorstep for one’s session, once',
  },
  tellStep: { summary: 'How far a computer is on its way back, told before anybody has signed in there' },
  keepDevice: {
    summary: 'Tell the desk of a standing consent that was made in this session',
    description: 'The consent is sent as it was signed: moments in it are milliseconds since 1970.',
  },
  receipt: {
    summary: 'The copy of a session that its customer keeps',
  },
  request: {
    summary: 'Ask for help, and wait; the token of the answer says whose request it is',
  },
  entry: {
    summary: 'Where one’s request stands',
    description: 'The token stands in the body: addresses are kept in histories and logs.',
  },
  sayInQueue: {
    summary: 'Write to the desk while one waits',
  },
  leaveQueue: {
    summary: 'Stop waiting',
  },
  happensToo: {
    summary: 'Say that a known fault happens to oneself, too',
  },
};
