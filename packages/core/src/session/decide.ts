import type { NotedFact } from './noted-facts.ts';
import { refuse, type Decision } from '../decision.ts';
import { askAgainMs, askOpenMs } from '../permission/asking.ts';
import { isEffective, rulesOf, type Permission } from '../permission/permission.ts';
import type { Policy } from '../policy.ts';
import type { CommandOf, SessionCommand } from './session-commands.ts';
import { isCustomerRole, type Proof, type SessionEvent } from './session-events.ts';
import {
  isOver,
  needsCallAnswer,
  presentParticipants,
  standingOf,
  whyNotWith,
  type Participant,
  type SessionState,
} from './session-state.ts';

/** What a grant's signed bytes say, once their signature fits the holder's key. */
export interface GrantStatement {
  readonly sessionId: string;
  readonly permission: Permission;
  readonly technicianSignKey: string;
  readonly technicianAgreeKey: string;
  readonly number: number;
  readonly endsAtMs: number;
}

export interface DecideContext {
  readonly sessionId: string;
  readonly nowMs: number;
  readonly policy: Policy;
  /** What this technician's team and role may ask. */
  mayAsk(technicianId: string | undefined, permission: Permission): boolean;
  /** Undefined when the signature does not fit or the bytes say nothing readable. */
  readGrant(statement: string, signature: string, holderSignKey: string): GrantStatement | undefined;
  /** The technician's name and the brief made from the ledger so far, for a handover. */
  handoverTexts(toTechnicianId: string, remark: string): { brief: string; toName: string } | undefined;
}

type Decider<T extends SessionCommand['type']> = (
  s: SessionState,
  c: CommandOf<T>,
  me: Participant,
  x: DecideContext,
) => Decision<SessionEvent>;

const isCustomer = (me: Participant) => isCustomerRole(me.role);
const isTechnician = (me: Participant) => me.role === 'technician';

/** What confirms who this participant is: their own proof, or that of the page which they were started from. */
function confirmedBy(s: SessionState, me: Participant): 'confirmed-by-ticket' | 'confirmed-by-directory' | undefined {
  const ofPage = presentParticipants(s, 'customer-page').find((p) => p.proof === 'ticket' || p.proof === 'directory');
  const proof: Proof | undefined = me.proof === 'page' ? ofPage?.proof : me.proof;
  return proof === 'ticket' ? 'confirmed-by-ticket' : proof === 'directory' ? 'confirmed-by-directory' : undefined;
}

/**
 * A fact that is older than one already told gives nothing back: played again, or out of order, "somebody is here" or
 * "the words were the same" would undo what was said since. What takes away holds whenever it comes.
 */
function isStale(me: Participant, command: SessionCommand): boolean {
  if (!('fact' in command) || command.fact === undefined || command.fact > me.lastFact) return false;
  return (
    (command.type === 'setPrivate' && !command.isOn) ||
    (command.type === 'setAway' && !command.isAway) ||
    (command.type === 'compareWords' && command.isSame) ||
    command.type === 'startControl'
  );
}

/** The signed grant and the ask have to say the same, for the key the technician really has. */
function grantEvents(
  s: SessionState,
  c: CommandOf<'grantAsk'>,
  me: Participant,
  x: DecideContext,
): Decision<SessionEvent> {
  if (s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
  const ask = s.asks[c.askId];
  if (!ask || x.nowMs >= ask.expiresAtMs) return refuse('ASK_NOT_OPEN');
  const technician = s.participants[ask.participantId];
  if (!technician || technician.isGone) return refuse('ASK_NOT_OPEN');
  const events: SessionEvent[] = [];
  let lastNumber = s.lastGrantNumber;
  for (const { statement, signature } of c.grants) {
    const grant = x.readGrant(statement, signature, me.signKey);
    const fits =
      grant &&
      grant.sessionId === x.sessionId &&
      ask.permissions.includes(grant.permission) &&
      grant.technicianSignKey === technician.signKey &&
      grant.technicianAgreeKey === technician.agreeKey &&
      grant.number > lastNumber &&
      grant.endsAtMs > x.nowMs &&
      whyNotWith(me, grant.permission) === undefined &&
      grant.endsAtMs <= neededUntilMs(s, ask.participantId, grant.permission, events);
    if (!fits) return refuse('GRANT_INVALID');
    lastNumber = grant.number;
    events.push({
      type: 'permissionGranted',
      by: me.id,
      askId: ask.id,
      participantId: ask.participantId,
      permission: grant.permission,
      grantNumber: grant.number,
      endsAtMs: grant.endsAtMs,
      grant: statement,
      signature,
      ...(c.isStanding ? { isStanding: true } : {}),
    });
  }
  const granted = events.map((e) => e.type === 'permissionGranted' && e.permission);
  // The customer may grant less than they were asked for: the rest is a no.
  const rest: SessionEvent[] = ask.permissions.every((p) => granted.includes(p))
    ? []
    : [{ type: 'askClosed', by: me.id, askId: ask.id, how: 'refused' }];
  return [...events, ...rest, ...completedHandover(s, technician, me.id)];
}

/** A permission that needs another ends with it at the latest, and is nothing without it. `granted` comes in the same breath. */
export function neededUntilMs(
  s: SessionState,
  participantId: string,
  permission: Permission,
  granted: readonly SessionEvent[],
): number {
  const { needs } = rulesOf(permission);
  if (!needs) return Infinity;
  const now = granted.find((e) => e.type === 'permissionGranted' && e.permission === needs);
  if (now?.type === 'permissionGranted') return now.endsAtMs;
  const standing = standingOf(s, participantId, needs);
  return standing.name === 'allowed' ? standing.endsAtMs : -Infinity;
}

/** The customer's yes to the colleague completes an accepted handover: the first technician is out in the same breath. */
function completedHandover(s: SessionState, technician: Participant, by: string): SessionEvent[] {
  const handover = s.handover;
  if (handover?.stage !== 'accepted' || technician.technicianId !== handover.toTechnicianId) return [];
  return [
    {
      type: 'handedOver',
      by,
      handoverId: handover.id,
      fromParticipantId: handover.fromParticipantId,
      toParticipantId: technician.id,
    },
  ];
}

/** What falls with the answer to the colleague's ask: the handover goes back to who asked for it. */
function failedHandover(s: SessionState, participantId: string, by: string): SessionEvent[] {
  const handover = s.handover;
  const technician = s.participants[participantId];
  if (handover?.stage !== 'accepted' || technician?.technicianId !== handover.toTechnicianId) return [];
  return [
    { type: 'handoverClosed', by, handoverId: handover.id, how: 'customer-said-no' },
    { type: 'participantLeft', by, participantId, reason: 'the customer did not agree' },
  ];
}

function askEvents(
  s: SessionState,
  c: CommandOf<'askPermissions'>,
  me: Participant,
  x: DecideContext,
): Decision<SessionEvent> {
  if (!isTechnician(me)) return refuse('WRONG_ROLE');
  const isTakingOver = s.handover?.stage === 'accepted' && s.handover.toTechnicianId === me.technicianId;
  if (s.leadId !== me.id && !isTakingOver) return refuse('NOT_THE_LEAD');
  if (s.phase.name !== 'live') return refuse('ACCEPTANCE_MISSING');
  const holder = s.holderId ? s.participants[s.holderId] : undefined;
  if (!holder) return refuse('NO_CONSENT_HOLDER');
  const wanted = [...new Set(c.permissions)];
  for (const permission of wanted) {
    const whyNot = whyNotWith(holder, permission);
    if (whyNot) return refuse(whyNot === 'browser-cannot' ? 'NEEDS_DOORSTEP' : 'NOT_POSSIBLE_HERE');
  }
  if (wanted.includes('control-input') && x.policy.controlNeedsComparedWords && !s.comparedWords[me.id])
    return refuse('WORDS_NOT_COMPARED');
  // Only whom a computer belongs to, or whose work it serves, can let anybody come back to it.
  if (wanted.includes('keep-device') && (s.computer === 'shared' || s.computer === 'others'))
    return refuse('NOT_THEIR_COMPUTER');
  if (s.isMinor && wanted.some((permission) => rulesOf(permission).isNotForMinors)) return refuse('CUSTOMER_IS_MINOR');
  for (const permission of wanted) {
    const rules = rulesOf(permission);
    if (!x.mayAsk(me.technicianId, permission)) return refuse('NOT_ALLOWED_BY_DESK');
    // A colleague's takeover is the one prompt that lists everything; otherwise a sensitive one stands alone.
    if (rules.isSensitive && wanted.length > 1 && !isTakingOver) return refuse('ASKED_ALONE');
    if (rules.needs && !wanted.includes(rules.needs) && !isEffective(standingOf(s, me.id, rules.needs), x.nowMs))
      return refuse('PERMISSION_NEEDS_OTHER');
    const standing = standingOf(s, me.id, permission);
    // Asking for what one has would put a question mark behind it, and behind what needs it.
    if (isEffective(standing, x.nowMs)) return refuse('ALREADY_ALLOWED');
    if (standing.name === 'waiting' && x.nowMs < standing.expiresAtMs) return refuse('ASK_TOO_SOON');
    const againMs = askAgainMs(x.policy.asks, permission, s.noes[permission] ?? 0);
    const lastNoMs = s.lastNoMs[permission];
    if (lastNoMs !== undefined && x.nowMs < lastNoMs + againMs) return refuse('ASK_TOO_SOON');
  }
  return [
    {
      type: 'permissionsAsked',
      by: me.id,
      askId: c.askId,
      participantId: me.id,
      permissions: wanted,
      expiresAtMs: x.nowMs + askOpenMs(x.policy.asks, wanted),
    },
  ];
}

function offerEvents(
  s: SessionState,
  c: CommandOf<'offerFile'>,
  me: Participant,
  x: DecideContext,
): Decision<SessionEvent> {
  // A second offer under a known id would rewrite what the customer's copy says was given.
  if (Object.hasOwn(s.files, c.fileId)) return refuse('FILE_ID_USED');
  const receiver = s.participants[c.toId];
  if (!receiver || receiver.isGone) return refuse('NOT_PRESENT');
  if (isTechnician(me) === isTechnician(receiver)) return refuse('WRONG_ROLE');
  if (c.sizeBytes > x.policy.maxFileBytes) return refuse('FILE_TOO_LARGE');
  const [technician, permission] = isTechnician(me) ? [me, 'give-files' as const] : [receiver, 'fetch-files' as const];
  if (!isEffective(standingOf(s, technician.id, permission), x.nowMs)) return refuse('NOT_GRANTED');
  return [
    {
      type: 'fileOffered',
      by: me.id,
      fileId: c.fileId,
      fromId: me.id,
      toId: c.toId,
      sizeBytes: c.sizeBytes,
      sha256: c.sha256,
      personal: { name: c.name },
    },
  ];
}

const noteFact = (me: Participant, what: NotedFact, fact: number | undefined): SessionEvent[] => [
  { type: 'factNoted', by: me.id, what, ...(fact === undefined ? {} : { fact }) },
];
const factOf = (c: { fact?: number | undefined }) => (c.fact === undefined ? {} : { fact: c.fact });

const deciders: { readonly [T in SessionCommand['type']]: Decider<T> } = {
  introduceCustomer: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    const shown = confirmedBy(s, me);
    return [
      {
        type: 'customerIntroduced',
        by: me.id,
        // Whoever says another name than the confirmed one is somebody else.
        identity: shown && (s.customerName ?? c.name) === c.name ? shown : 'said-so-themselves',
        ...(c.language ? { language: c.language } : {}),
        ...(c.computer ? { computer: c.computer } : {}),
        ...(c.isMinor === undefined ? {} : { isMinor: c.isMinor }),
        personal: { name: c.name, address: c.address },
      },
    ];
  },
  chooseAim: (s, c, me) => {
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    if (isOver(s)) return refuse('SESSION_ENDED');
    return s.aim === c.aim ? [] : [{ type: 'aimChosen', by: me.id, aim: c.aim }];
  },
  answerChangeOver: (s, c, me) => {
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    if (isOver(s)) return refuse('SESSION_ENDED');
    if (s.candidateId !== c.participantId) return refuse('NOT_PRESENT');
    return [{ type: 'changeOverAnswered', by: me.id, participantId: c.participantId, isYes: c.isYes }];
  },
  chooseSource: (s, c, me) => {
    if (me.role !== 'customer-page' || s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
    return [{ type: 'sourceChosen', by: me.id, what: c.what }];
  },
  setPrivate: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    if (isOver(s)) return noteFact(me, 'a private moment', c.fact);
    return [{ type: 'privateMoment', by: me.id, isOn: c.isOn, ...factOf(c) }];
  },
  setAway: (s, c, me) => {
    if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
    if (isOver(s)) return noteFact(me, c.isAway ? 'nobody was there' : 'somebody was there', c.fact);
    return [{ type: 'customerAway', by: me.id, isAway: c.isAway, ...factOf(c) }];
  },
  answerCall: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    const answered: SessionEvent = { type: 'callAnswered', by: me.id, answer: c.answer };
    if (c.answer === 'i-called') return [answered];
    return [answered, { type: 'sessionEnded', by: me.id, reason: 'fraud', why: 'somebody called the customer' }];
  },
  acceptSession: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    if (needsCallAnswer(s) || s.customerName === undefined) return refuse('ACCEPTANCE_MISSING');
    if (s.hasAccepted) return [];
    return [{ type: 'customerAccepted', by: me.id, noticeVersion: c.noticeVersion }];
  },
  offerOwnPicture: (s, _c, me) => {
    if (me.role !== 'customer-page') return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    // Doorstep, once there, can do all that a page can.
    return s.holderId ? [] : [{ type: 'ownPictureOffered', by: me.id }];
  },
  askPermissions: askEvents,
  takeBackAsk: (s, c, me) => {
    const ask = s.asks[c.askId];
    if (!ask) return [];
    if (ask.participantId !== me.id) return refuse('WRONG_ROLE');
    return [{ type: 'askClosed', by: me.id, askId: c.askId, how: 'taken-back' }];
  },
  grantAsk: grantEvents,
  beginVisit: (s, c, me) => {
    if (me.role !== 'doorstep' || s.deviceId === undefined) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    const technician = s.participants[c.participantId];
    if (technician?.role !== 'technician' || technician.isGone) return refuse('NOT_PRESENT');
    const began: SessionEvent = {
      type: 'visitBegan',
      by: me.id,
      participantId: technician.id,
      wasAsked: c.wasAsked,
    };
    // What a visitor may is what the customer accepted when they made the standing consent.
    return s.hasAccepted ? [began] : [began, { type: 'customerAccepted', by: me.id, noticeVersion: c.noticeVersion }];
  },
  refuseAsk: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    const ask = s.asks[c.askId];
    if (!ask) return noteFact(me, 'said no to an ask that was closed already', c.fact);
    return [
      { type: 'askClosed', by: me.id, askId: c.askId, how: 'refused' },
      ...failedHandover(s, ask.participantId, me.id),
    ];
  },
  withdrawPermission: (_s, c, me) => {
    // A technician may only give up what is theirs; the customer's side may take back anything.
    if (isTechnician(me) && c.participantId !== me.id) return refuse('WRONG_ROLE');
    return [
      {
        type: 'permissionWithdrawn',
        by: me.id,
        participantId: c.participantId,
        permission: c.permission,
        why: c.why,
        ...factOf(c),
      },
    ];
  },
  startControl: (s, c, me) => {
    if (me.role !== 'doorstep' || s.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
    if (isOver(s)) return noteFact(me, 'control had started', c.fact);
    return [{ type: 'controlStarted', by: me.id, participantId: c.participantId, ...factOf(c) }];
  },
  stopControl: (_s, c, me) => {
    if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
    return [
      {
        type: 'controlStopped',
        by: me.id,
        participantId: c.participantId,
        why: c.why,
        clicks: c.clicks,
        keys: c.keys,
        ...factOf(c),
      },
    ];
  },
  loseScreen: (_s, c, me) => {
    if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
    return [{ type: 'screenLost', by: me.id, why: c.why, ...factOf(c) }];
  },
  compareWords: (s, c, me) => {
    if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
    // Words are those of the keys that show and work now; what was compared with others says nothing of these.
    if (s.holderId !== me.id) return noteFact(me, 'compared words while another computer was shown', c.fact);
    return [{ type: 'wordsCompared', by: me.id, participantId: c.participantId, isSame: c.isSame, ...factOf(c) }];
  },
  sendChat: (s, c, me) => {
    if (s.phase.name === 'logged') return refuse('SESSION_ENDED');
    return [{ type: 'chatSent', by: me.id, messageId: c.messageId, personal: { text: c.text } }];
  },
  offerFile: (s, c, me, x) => (isOver(s) ? refuse('SESSION_ENDED') : offerEvents(s, c, me, x)),
  acceptFile: (s, c, me) => {
    const file = s.files[c.fileId];
    if (file?.stage !== 'offered') return refuse('FILE_NOT_OPEN');
    if (file.toId !== me.id) return refuse('WRONG_ROLE');
    return [{ type: 'fileAccepted', by: me.id, fileId: c.fileId }];
  },
  closeFile: (s, c, me) => {
    const file = s.files[c.fileId];
    if (!file || (file.stage !== 'offered' && file.stage !== 'moving')) return [];
    if (file.toId !== me.id && file.fromId !== me.id && !isCustomer(me)) return refuse('WRONG_ROLE');
    return [{ type: 'fileClosed', by: me.id, fileId: c.fileId, how: c.how, why: c.why }];
  },
  confirmFile: (s, c, me) => {
    const file = s.files[c.fileId];
    if (file?.stage !== 'moving') return refuse('FILE_NOT_OPEN');
    if (file.toId !== me.id) return refuse('WRONG_ROLE');
    if (c.sha256 !== file.sha256)
      return [
        { type: 'fileClosed', by: me.id, fileId: c.fileId, how: 'failed', why: 'what arrived is not what was sent' },
      ];
    return [{ type: 'fileArrived', by: me.id, fileId: c.fileId, sha256: c.sha256 }];
  },
  requestHandover: (s, c, me, x) => {
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    if (s.phase.name !== 'live') return refuse(isOver(s) ? 'SESSION_ENDED' : 'ACCEPTANCE_MISSING');
    if (s.handover) return refuse('HANDOVER_OPEN');
    const texts = x.handoverTexts(c.toTechnicianId, c.remark);
    if (!texts || c.toTechnicianId === me.technicianId) return refuse('NOT_PRESENT');
    return [
      {
        type: 'handoverRequested',
        by: me.id,
        handoverId: c.handoverId,
        toTechnicianId: c.toTechnicianId,
        answerByMs: x.nowMs + x.policy.handoverAnswerMs,
        personal: texts,
      },
    ];
  },
  takeBackHandover: (s, c, me) => {
    if (s.handover?.id !== c.handoverId) return [];
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    return closeHandover(s, me.id, 'taken-back');
  },
  askToTry: (s, _c, me) => {
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    if (s.phase.name !== 'live') return refuse(isOver(s) ? 'SESSION_ENDED' : 'ACCEPTANCE_MISSING');
    // Proof first: whoever tries it has the mouse to themselves.
    const gaveUp: SessionEvent[] =
      standingOf(s, me.id, 'control-input').name === 'allowed'
        ? [
            {
              type: 'permissionWithdrawn',
              by: me.id,
              participantId: me.id,
              permission: 'control-input',
              why: 'so that the customer can try it',
            },
          ]
        : [];
    return [...gaveUp, { type: 'tryItAsked', by: me.id }];
  },
  answerTry: (s, c, me) => {
    if (!isCustomer(me)) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    return [{ type: 'tryItAnswered', by: me.id, answer: c.answer }];
  },
  endSession: (s, c, me) => {
    if (isOver(s)) return isCustomer(me) ? noteFact(me, 'pressed Stop after the end', c.fact) : [];
    if (isTechnician(me)) {
      if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
      return [{ type: 'sessionEnded', by: me.id, reason: 'technician', why: c.why }];
    }
    return [
      {
        type: 'sessionEnded',
        by: me.id,
        reason: c.reason === 'technician' ? 'customer' : c.reason,
        why: c.why,
        ...factOf(c),
      },
    ];
  },
  leaveSession: (s, c, me) => {
    const left: SessionEvent = { type: 'participantLeft', by: me.id, participantId: me.id, reason: c.reason };
    if (s.handover?.stage === 'accepted' && s.handover.toTechnicianId === me.technicianId)
      return [{ type: 'handoverClosed', by: me.id, handoverId: s.handover.id, how: 'declined' }, left];
    return [left];
  },
  logOutcome: (s, c, me) => {
    if (!isTechnician(me)) return refuse('WRONG_ROLE');
    if (s.phase.name === 'logged') return refuse('OUTCOME_LOGGED');
    if (s.phase.name !== 'ended') return refuse('SESSION_NOT_ENDED');
    if (s.technicianId !== me.technicianId) return refuse('NOT_THE_LEAD');
    return [{ type: 'outcomeLogged', by: me.id, outcome: c.outcome, minutes: c.minutes, personal: { note: c.note } }];
  },
};

/** Ends an open handover; a colleague who had come in already goes again. */
export function closeHandover(s: SessionState, by: string, how: 'declined' | 'lapsed' | 'taken-back'): SessionEvent[] {
  if (!s.handover) return [];
  const closed: SessionEvent = { type: 'handoverClosed', by, handoverId: s.handover.id, how };
  const colleague = presentParticipants(s, 'technician').find((p) => p.technicianId === s.handover?.toTechnicianId);
  return colleague
    ? [closed, { type: 'participantLeft', by, participantId: colleague.id, reason: 'the handover went back' }]
    : [closed];
}

/** What becomes of a participant's command: events, or a refusal and nothing else. */
export function decideSession(
  s: SessionState,
  command: SessionCommand,
  byId: string,
  x: DecideContext,
): Decision<SessionEvent> {
  const me = s.participants[byId];
  if (!me) return refuse('NOT_PRESENT');
  const isFact = 'fact' in command && command.fact !== undefined;
  // A technician who went, by handover for one, has nothing more to say; but what the customer's side reports still counts.
  if (me.isGone && !(isFact && isCustomer(me)) && command.type !== 'logOutcome') return refuse('NOT_PRESENT');
  if (me.isReplaced) return refuse('REPLACED');
  if (isStale(me, command))
    return noteFact(me, 'said again what was told before', 'fact' in command ? command.fact : undefined);
  // One row for each type; TypeScript cannot tie the row to the command, hence the cast.
  return (deciders[command.type] as Decider<SessionCommand['type']>)(s, command as never, me, x);
}
