import {
  allPermissions,
  dependants,
  type Permission,
  type PermissionStanding,
  type WhyNot,
} from '../permission/permission.ts';
import {
  CHANGED_OVER,
  isCustomerRole,
  REPLACED,
  type EventOf,
  type Proof,
  type SessionEvent,
} from './session-events.ts';
import type { FileTransfer, Participant, Phase, SessionState } from './session-state.ts';

type Evolver = { readonly [T in SessionEvent['type']]: (s: SessionState, e: EventOf<T>, atMs: number) => SessionState };

/** What a Doorstep that says nothing of itself can do: the first release said nothing. */
const firstRelease = new Set<Permission>(['view-screen', 'control-input', 'give-files', 'fetch-files']);
const firstReleaseCannot: Readonly<Partial<Record<Permission, WhyNot>>> = Object.fromEntries(
  allPermissions.filter((p) => !firstRelease.has(p)).map((p) => [p, 'not-in-this-release' as const]),
);

const setStanding = (s: SessionState, participantId: string, permission: Permission, standing: PermissionStanding) => ({
  ...s,
  standings: { ...s.standings, [participantId]: { ...s.standings[participantId], [permission]: standing } },
});

function withoutAsk(s: SessionState, askId: string): SessionState {
  const { [askId]: _closed, ...asks } = s.asks;
  return { ...s, asks };
}

/**
 * Ends a permission, and whatever needs it, for one participant. Taken back is what the customer took back; what a
 * technician gave back, or what ended with something else, is over.
 */
function endPermission(
  s: SessionState,
  participantId: string,
  permission: Permission,
  atMs: number,
  name: 'takenBack' | 'over' = 'over',
): SessionState {
  let next = setStanding(s, participantId, permission, { name, atMs });
  for (const other of dependants(permission)) {
    const standing = next.standings[participantId]?.[other];
    if (standing?.name === 'allowed' || standing?.name === 'waiting')
      next = endPermission(next, participantId, other, atMs, name);
  }
  if (permission === 'control-input' && next.controllerId === participantId)
    next = { ...next, controllerId: undefined };
  return stopFiles(next, participantId, permission);
}

/** What is on its way stops with the leave for it: what a technician gives with one permission, what they fetch with another. */
function stopFiles(s: SessionState, participantId: string, permission: Permission): SessionState {
  if (permission !== 'give-files' && permission !== 'fetch-files') return s;
  let next = s;
  for (const file of Object.values(s.files)) {
    const theirs = permission === 'give-files' ? file.fromId : file.toId;
    if (theirs === participantId && (file.stage === 'offered' || file.stage === 'moving'))
      next = withFile(next, file.id, 'cancelled');
  }
  return next;
}

function endAllPermissions(s: SessionState, participantIds: readonly string[], atMs: number): SessionState {
  let next = s;
  for (const id of participantIds)
    for (const [permission, standing] of Object.entries(s.standings[id] ?? {}))
      if (standing.name === 'allowed' || standing.name === 'waiting')
        next = endPermission(next, id, permission as Permission, atMs);
  return next;
}

/** Takes back what is allowed, and leaves what is only asked. */
function endHeldPermissions(s: SessionState, atMs: number): SessionState {
  let next = s;
  for (const [id, standings] of Object.entries(s.standings))
    for (const [permission, standing] of Object.entries(standings))
      if (standing.name === 'allowed') next = endPermission(next, id, permission as Permission, atMs);
  return next;
}

function withFile(s: SessionState, fileId: string, stage: FileTransfer['stage']): SessionState {
  const file = s.files[fileId];
  return file ? { ...s, files: { ...s.files, [fileId]: { ...file, stage } } } : s;
}

const withParticipant = (s: SessionState, id: string, change: Partial<Participant>): SessionState => {
  const known = s.participants[id];
  return known ? { ...s, participants: { ...s.participants, [id]: { ...known, ...change } } } : s;
};

const isConfirmedBy = (proof: Proof | undefined) => proof === 'ticket' || proof === 'directory';

/** As confirmed as the least confirmed of those who are here for the customer; what their own page started is they. */
function withIdentity(s: SessionState): SessionState {
  const here = Object.values(s.participants).filter((p) => !p.isGone && isCustomerRole(p.role) && p.proof !== 'page');
  if (!here.length) return s;
  if (here.some((p) => !isConfirmedBy(p.proof)))
    return s.identity === 'unknown' ? s : { ...s, identity: 'said-so-themselves' };
  const isAllDirectory = here.every((p) => p.proof === 'directory');
  return { ...s, identity: isAllDirectory ? 'confirmed-by-directory' : 'confirmed-by-ticket' };
}

/** What the page or a program before held was for its own picture only; what is still asked is asked anew. */
const holderBeginsAnew = (s: SessionState, atMs: number): SessionState => ({
  ...endHeldPermissions(s, atMs),
  controllerId: undefined,
});

function leave(s: SessionState, participantId: string, atMs: number, reason = ''): SessionState {
  const leaver = s.participants[participantId];
  if (!leaver) return s;
  const isReplaced = leaver.isReplaced || reason === REPLACED || reason === CHANGED_OVER;
  let next: SessionState = {
    ...s,
    participants: { ...s.participants, [participantId]: { ...leaver, isGone: true, isReplaced } },
  };
  // Without its holder no grant of a picture source can be effective; a technician takes only their own along.
  next = endAllPermissions(next, s.holderId === participantId ? Object.keys(s.standings) : [participantId], atMs);
  const asks = Object.values(next.asks).filter(
    (a) => s.holderId !== participantId && a.participantId !== participantId,
  );
  next = { ...next, asks: Object.fromEntries(asks.map((a) => [a.id, a])) };
  for (const file of Object.values(next.files))
    if (
      (file.stage === 'offered' || file.stage === 'moving') &&
      (file.fromId === participantId || file.toId === participantId)
    )
      next = withFile(next, file.id, 'failed');
  return withIdentity({
    ...next,
    candidateId: next.candidateId === participantId ? undefined : next.candidateId,
    holderId: next.holderId === participantId ? undefined : next.holderId,
    // Who is gone does nothing private any longer, and is not away: they are gone.
    privateAt: next.privateAt.filter((id) => id !== participantId),
    isAway: next.holderId === participantId ? false : next.isAway,
    leadId: next.leadId === participantId ? undefined : next.leadId,
  });
}

const liveMsOf = (phase: Phase, atMs: number) => (phase.name === 'live' ? Math.max(0, atMs - phase.sinceMs) : 0);

const evolvers: Evolver = {
  sessionPrepared: (s, e) => ({
    ...s,
    technicianId: e.technicianId,
    behind: e.behind,
    deviceId: e.deviceId,
    ticketRef: e.ticketRef,
    language: e.language ?? s.language,
    technicianName: e.personal?.technicianName,
    purpose: e.personal?.purpose,
    customerPurpose: e.personal?.customerPurpose,
    asset: e.personal?.asset,
    customerName: e.personal?.customerName,
    customerAddress: e.personal?.customerAddress,
  }),
  customerExpected: (s, e) => ({
    ...s,
    customerName: e.personal?.customerName,
    customerAddress: e.personal?.customerAddress,
  }),
  ticketAttached: (s, e) => ({ ...s, ticketRef: e.ticketRef }),
  codeIssued: (s) => s,
  codeWithdrawn: (s) => s,
  invitationIssued: (s) => s,
  invitationFailed: (s) => s,
  invitationWithdrawn: (s) => s,
  participantJoined: (s, e, atMs) => {
    const participant: Participant = {
      id: e.participantId,
      seat: e.seat,
      role: e.role,
      technicianId: e.technicianId,
      signKey: e.signKey,
      agreeKey: e.agreeKey,
      startId: e.startId ?? '',
      pastStarts: [],
      // Only the requester reads the ticket, so whoever comes by a link from there is them.
      proof: e.proof ?? (e.way === 'ticket-link' ? 'ticket' : undefined),
      lastFact: 0,
      isReplaced: false,
      isGone: false,
      cannot: e.cannot ?? (e.role === 'doorstep' ? firstReleaseCannot : {}),
      name: e.personal?.name,
    };
    const isLead = e.role === 'technician' && s.leadId === undefined && e.technicianId === s.technicianId;
    // A Doorstep takes a page's place, but not another Doorstep's: that is the technician's to say.
    const isHolder =
      e.role === 'doorstep' && (s.holderId === undefined || s.participants[s.holderId]?.role !== 'doorstep');
    const before = isHolder && s.holderId !== undefined ? holderBeginsAnew(s, atMs) : s;
    const joined: SessionState = {
      ...before,
      participants: { ...s.participants, [e.participantId]: participant },
      leadId: isLead ? e.participantId : s.leadId,
      holderId: isHolder ? e.participantId : s.holderId,
      phase: e.role !== 'technician' && s.phase.name === 'prepared' ? { name: 'joining' } : s.phase,
    };
    return e.role === 'technician' ? joined : withIdentity(joined);
  },
  programStarted: (s, e, atMs) => {
    const known = s.participants[e.participantId];
    if (!known) return s;
    // A holder that started again holds nothing: what it had signed for was in its memory.
    const before = s.holderId === e.participantId ? holderBeginsAnew(s, atMs) : s;
    return withParticipant(before, e.participantId, {
      startId: e.startId,
      pastStarts: [...known.pastStarts, known.startId],
    });
  },
  changeOverWanted: (s, e) => ({ ...s, candidateId: e.participantId }),
  changeOverAnswered: (s, e, atMs) => {
    const answered: SessionState = { ...s, candidateId: undefined };
    if (!e.isYes) return leave(answered, e.participantId, atMs);
    const before = s.holderId ? leave(answered, s.holderId, atMs, CHANGED_OVER) : answered;
    return { ...holderBeginsAnew(before, atMs), holderId: e.participantId };
  },
  participantLeft: (s, e, atMs) => leave(s, e.participantId, atMs, e.reason),
  customerIntroduced: (s, e) =>
    withIdentity({
      // Whoever says another name than the confirmed one has confirmed nothing.
      ...(e.identity === 'said-so-themselves' && isConfirmedBy(s.participants[e.by]?.proof)
        ? withParticipant(s, e.by, { proof: undefined })
        : s),
      identity: e.identity,
      language: e.language ?? s.language,
      computer: e.computer ?? s.computer,
      isMinor: e.isMinor ?? s.isMinor,
      customerName: e.personal?.name,
      customerAddress: e.personal?.address,
    }),
  aimChosen: (s, e) => ({ ...s, aim: e.aim }),
  sourceChosen: (s) => s,
  privateMoment: (s, e) => ({
    ...s,
    // Whoever sits at the computer itself says when it is over, wherever it began.
    privateAt: e.isOn
      ? [...s.privateAt.filter((id) => id !== e.by), e.by]
      : s.privateAt.filter((id) => id !== e.by && s.participants[e.by]?.role !== 'doorstep'),
  }),
  customerAway: (s, e) => ({ ...s, isAway: e.isAway }),
  callAnswered: (s, e) => ({ ...s, callAnswer: e.answer }),
  ownPictureOffered: (s, e) => ({ ...s, holderId: e.by }),
  customerAccepted: (s, _e, atMs) => ({
    ...s,
    hasAccepted: true,
    phase: s.phase.name === 'joining' ? { name: 'live', sinceMs: atMs } : s.phase,
  }),
  // The second secret is bound to both programs' keys: it shows what the words would.
  visitBegan: (s, e) => ({ ...s, comparedWords: { ...s.comparedWords, [e.participantId]: true } }),
  permissionsAsked: (s, e) => {
    let next: SessionState = {
      ...s,
      asks: {
        ...s.asks,
        [e.askId]: {
          id: e.askId,
          participantId: e.participantId,
          permissions: e.permissions,
          expiresAtMs: e.expiresAtMs,
        },
      },
    };
    for (const permission of e.permissions)
      next = setStanding(next, e.participantId, permission, {
        name: 'waiting',
        askId: e.askId,
        expiresAtMs: e.expiresAtMs,
      });
    return next;
  },
  askClosed: (s, e, atMs) => {
    const ask = s.asks[e.askId];
    if (!ask) return s;
    let next = withoutAsk(s, e.askId);
    const ending: PermissionStanding =
      e.how === 'refused'
        ? { name: 'saidNo', atMs }
        : e.how === 'lapsed'
          ? { name: 'lapsed', atMs }
          : { name: 'notAsked' };
    for (const permission of ask.permissions) {
      const standing = next.standings[ask.participantId]?.[permission];
      if (standing?.name === 'waiting' && standing.askId === e.askId)
        next = {
          ...setStanding(next, ask.participantId, permission, ending),
          ...(e.how === 'refused'
            ? {
                noes: { ...next.noes, [permission]: (next.noes[permission] ?? 0) + 1 },
                lastNoMs: { ...next.lastNoMs, [permission]: atMs },
              }
            : {}),
        };
    }
    return next;
  },
  permissionGranted: (s, e) => {
    const granted = setStanding(s, e.participantId, e.permission, {
      name: 'allowed',
      grantNumber: e.grantNumber,
      endsAtMs: e.endsAtMs,
    });
    const ask = s.asks[e.askId];
    const isAnswered = ask?.permissions.every((p) => {
      const standing = granted.standings[ask.participantId]?.[p];
      return !(standing?.name === 'waiting' && standing.askId === ask.id);
    });
    return {
      ...(isAnswered ? withoutAsk(granted, e.askId) : granted),
      lastGrantNumber: Math.max(s.lastGrantNumber, e.grantNumber),
    };
  },
  permissionWithdrawn: (s, e, atMs) =>
    endPermission(s, e.participantId, e.permission, atMs, e.by === e.participantId ? 'over' : 'takenBack'),
  controlStarted: (s, e) => ({ ...s, controllerId: e.participantId }),
  controlStopped: (s, e) => (s.controllerId === e.participantId ? { ...s, controllerId: undefined } : s),
  screenLost: (s, _e, atMs) => endAllPermissions({ ...s, controllerId: undefined }, Object.keys(s.standings), atMs),
  chatSent: (s) => s,
  fileOffered: (s, e) => ({
    ...s,
    // An id that is known stays what it was: nobody rewrites afterwards what was given.
    files: {
      [e.fileId]: {
        id: e.fileId,
        fromId: e.fromId,
        toId: e.toId,
        sizeBytes: e.sizeBytes,
        sha256: e.sha256,
        stage: 'offered',
        name: e.personal?.name,
      },
      ...s.files,
    },
  }),
  fileAccepted: (s, e) => withFile(s, e.fileId, 'moving'),
  fileClosed: (s, e) => withFile(s, e.fileId, e.how),
  fileArrived: (s, e) => withFile(s, e.fileId, 'arrived'),
  handoverRequested: (s, e) => ({
    ...s,
    handover: {
      id: e.handoverId,
      fromParticipantId: e.by,
      toTechnicianId: e.toTechnicianId,
      stage: 'offered',
      answerByMs: e.answerByMs,
    },
  }),
  handoverAccepted: (s) => (s.handover ? { ...s, handover: { ...s.handover, stage: 'accepted' } } : s),
  handoverClosed: (s) => ({ ...s, handover: undefined }),
  handedOver: (s, e, atMs) => ({
    ...leave({ ...s, leadId: e.toParticipantId }, e.fromParticipantId, atMs),
    leadId: e.toParticipantId,
    technicianId: s.handover?.toTechnicianId ?? s.technicianId,
    technicianName: s.participants[e.toParticipantId]?.name,
    handover: undefined,
  }),
  tryItAsked: (s) => ({ ...s, isTryAsked: true, tryAnswer: undefined }),
  tryItAnswered: (s, e) => ({ ...s, isTryAsked: false, tryAnswer: e.answer }),
  sessionEnded: (s, e, atMs) => {
    const ended: SessionState = {
      ...endAllPermissions(s, Object.keys(s.standings), atMs),
      asks: {},
      handover: undefined,
      controllerId: undefined,
      isTryAsked: false,
      phase: { name: 'ended', sinceMs: atMs, liveMs: liveMsOf(s.phase, atMs), reason: e.reason },
    };
    return Object.values(s.files).reduce(
      (next, f) => (f.stage === 'offered' || f.stage === 'moving' ? withFile(next, f.id, 'cancelled') : next),
      ended,
    );
  },
  outcomeLogged: (s, e) =>
    s.phase.name === 'ended' ? { ...s, phase: { ...s.phase, name: 'logged', outcome: e.outcome } } : s,
  wordsCompared: (s, e) => ({ ...s, comparedWords: { ...s.comparedWords, [e.participantId]: e.isSame } }),
  factNoted: (s) => s,
  personErased: (s) => s,
};

/** What is true after an event. Total: every event fits every state, since facts are never refused. */
export function evolveSession(state: SessionState, event: SessionEvent, atMs: number): SessionState {
  // One row for each type; TypeScript cannot tie the row to the event, hence the cast.
  const evolve = evolvers[event.type] as (s: SessionState, e: SessionEvent, atMs: number) => SessionState;
  const next = evolve(state, event, atMs);
  const fact = 'fact' in event ? event.fact : undefined;
  if (fact === undefined) return next;
  return withParticipant(next, event.by, { lastFact: Math.max(next.participants[event.by]?.lastFact ?? 0, fact) });
}
