import {
  fetchExchange,
  GrantBook,
  inBackground,
  LiveConnection,
  LookChannel,
  RestClient,
  safeAddress,
  ScreenShare,
  type SocketLike,
  type Watcher,
} from '@porch/client';
import { isOver } from '@porch/core';
import { startOf, type AppError, type ParticipantKeys } from '@porch/wire';
import { hostname, userInfo } from 'node:os';
import type { Logger } from 'pino';
import { WebSocket } from 'ws';
import { comeIn, type ComingIn } from './come-in.ts';
import { ConsentHolder } from './consent/consent-holder.ts';
import { FactJournal } from './consent/fact-journal.ts';
import { Presence } from './consent/presence.ts';
import { bannerWords } from './consent/questions.ts';
import { cannotHere } from './consent/support.ts';
import type { Desktop } from './desktop/desktop.ts';
import { atTheDoorWords } from './device/device-questions.ts';
import { KeepDesk } from './device/keep-desk.ts';
import type { Standing, StandingStore } from './device/standing-store.ts';
import { VisitDesk } from './device/visit-desk.ts';
import { FileDesk } from './files/file-desk.ts';
import { LeaseKeeper } from './input/lease-keeper.ts';
import { livePort, nodeCodecs } from './picture/live-port.ts';
import { SessionKeys } from './session-keys.ts';
import { WordsDesk } from './consent/words-desk.ts';

export interface DoorstepOptions {
  readonly serviceUrl: string;
  readonly invitation: ComingIn;
  /** A visit to this device: its standing consent is in force here. */
  readonly visit?: { readonly store: StandingStore; readonly standing: Standing; onBegun(): void };
  /** Where a standing consent that is made in this session goes; without it none can be made. */
  readonly keepIn?: { readonly store: StandingStore; onKept(): void; onDropped(): void };
  /** The host that this program's publisher made it for, if they named one. */
  readonly madeFor?: string | undefined;
  readonly desktop: Desktop;
  readonly stateFolder: string;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
}

/** What is still to be delivered after the end gets this long; after a signal only a moment. The journal keeps the rest. */
const FAREWELL_MS = 10 * 60_000;
const HURRIED_FAREWELL_MS = 1_500;
/** setTimeout takes no more. */
const MAX_TIMER_MS = 2 ** 31 - 1;

/** Joins a session and serves it until it ends. Resolves with why it ended. */
export async function runDoorstep(options: DoorstepOptions, signal: AbortSignal): Promise<string> {
  const { desktop, log, serviceUrl } = options;
  const rest = new RestClient(fetchExchange(safeAddress(serviceUrl)));
  const door = await comeIn(rest, options.invitation, log, signal);
  const canKeep = options.keepIn !== undefined && !options.keepIn.store.exists && door.standingConsentDays > 0;
  const connectWith = (keys: ParticipantKeys) =>
    new LiveConnection({
      pass: () => rest.doorLive(),
      openSocket: (url) => new WebSocket(safeAddress(url)) as unknown as SocketLike,
      keys,
      computer: hostname(),
      cannot: cannotHere(canKeep),
    });
  const sessionKeys = new SessionKeys(options.stateFolder, door.sessionId);
  const { keys, isKept } = sessionKeys.take();
  let connection = connectWith(keys);
  if (isKept && (await hasLostItsPlace(connection))) {
    // What was decided before is told in the old name; then we come in anew.
    await tellWhatWasLeft(connection, options.stateFolder, door.sessionId, signal);
    connection = connectWith(sessionKeys.renew());
  }
  const ended = new Promise<string>((resolve) => {
    connection.on('failed', (error: AppError) => resolve(error.message));
    connection.on('entry', () => {
      if (isOver(connection.state)) resolve('the session has ended');
    });
    connection.on('caughtUp', () => {
      if (connection.state.participants[connection.participantId]?.isGone) resolve('the line was gone for too long');
    });
    signal.addEventListener('abort', () => resolve('Doorstep was closed'), { once: true });
  });
  await Promise.race([connection.ready(), ended]);

  const { lastFact = 0 } = connection.state.participants[connection.participantId] ?? {};
  const journal = new FactJournal(options.stateFolder, door.sessionId, lastFact);
  const grants = new GrantBook(connection.keys, door.sessionId, connection.state.lastGrantNumber);
  const look = new LookChannel(connection);
  const picture = new ScreenShare(livePort(connection, look), desktop, await nodeCodecs(), (error, what) =>
    log.warn({ err: error }, what),
  );
  let tellStopped: (why: string) => void = () => undefined;
  const stopped = new Promise<string>((resolve) => (tellStopped = resolve));
  let banner = '';
  let isWallpaperHidden = false;
  const parts = { connection, desktop, grants, journal, log, desk: door, personName: userInfo().username };
  // The second secret is bound to both programs' keys: whoever proved it needs no words.
  const areWordsCompared = (participantId: string) =>
    wordsDesk.isSame(participantId) || (visitDesk?.isProven(participantId) ?? false);
  const keepDesk =
    options.keepIn && canKeep
      ? new KeepDesk({
          connection,
          rest,
          store: options.keepIn.store,
          serviceUrl,
          deskName: door.deskName,
          mostDays: door.standingConsentDays,
          computer: hostname(),
          onKept: options.keepIn.onKept,
        })
      : undefined;
  const holder: ConsentHolder = new ConsentHolder({
    ...parts,
    areWordsCompared,
    place: { address: new URL(serviceUrl).host, madeFor: options.madeFor },
    coveredUntilMs: (ask) => visitDesk?.coveredUntilMs(ask),
    ...(keepDesk ? { keep: keepDesk } : {}),
    onChanged: onChanged,
  });
  const visitDesk: VisitDesk | undefined = options.visit
    ? new VisitDesk({
        connection,
        holder,
        look,
        ...options.visit,
        noticeVersion: door.noticeVersion,
        log,
        onChanged: onChanged,
      })
    : undefined;
  const lease: LeaseKeeper = new LeaseKeeper({
    ...parts,
    holder,
    aim: (display) => picture.aim(display),
    whyHeld: (signKey) => {
      if (isPrivate()) return 'they are doing something private';
      const mayWorkAlone =
        grants.holds('work-alone', signKey, connection.serviceNowMs) || (visitDesk?.mayBeAlone(signKey) ?? false);
      return presence.isAway && !mayWorkAlone ? 'nobody is at their computer' : undefined;
    },
    onChanged: onChanged,
  });
  const presence: Presence = new Presence(connection, desktop, holder, door.awayAfterMs, onChanged);
  const files = new FileDesk({
    ...parts,
    holder,
    home: options.home,
    downloads: options.downloads,
    ownFolders: [options.stateFolder],
  });
  const wordsDesk: WordsDesk = new WordsDesk({ ...parts, holder, look });
  /** A private moment holds at once, without the service; one that began on the customer's page counts, too. */
  let isPrivateHere = false;
  const isPrivate = () => isPrivateHere || connection.state.slices.presence.privateAt.length > 0;
  const offPrivate = desktop.onPrivateWanted(() => {
    isPrivateHere = !isPrivate();
    holder.report((fact) => ({ type: 'setPrivate', isOn: isPrivateHere, fact }));
    onChanged();
  });
  const technicianAt = (seat: number) =>
    Object.values(connection.state.participants).find((p) => p.seat === seat && p.role === 'technician' && !p.isGone);
  const mayLook = (seat: number) => {
    const technician = technicianAt(seat);
    return technician && grants.holds('view-screen', technician.signKey, connection.serviceNowMs)
      ? technician
      : undefined;
  };
  const offFrames = connection.on('frame', ({ frame, bytes }) => {
    if (frame.channel === 'screen' && frame.senderSeat === 0) picture.handleRelay(frame);
    if (frame.channel !== 'look') return;
    const technician = technicianAt(frame.senderSeat);
    // The key decides, not the name: without a grant of our own, or a visit to prove, nothing is even opened.
    if (!technician || !(visitDesk || mayLook(frame.senderSeat))) return;
    const message = look.open(frame.senderSeat, bytes);
    if (!message) return;
    visitDesk?.take(technician, message);
    if (!mayLook(frame.senderSeat)) return;
    picture.take(frame.senderSeat, message);
    wordsDesk.take(frame.senderSeat, message);
  });
  const offRoom = connection.on('room', () => picture.pump());
  const watchers = (): Watcher[] =>
    connection.viewers.flatMap(({ seat, displays }) => {
      const technician = mayLook(seat);
      return technician ? [{ seat, displays, start: startOf(technician) }] : [];
    });
  /** Everything that follows from what is allowed: the lease, the picture, the banner. */
  let grantEnd: ReturnType<typeof setTimeout> | undefined;
  function armGrantEnd(): void {
    clearTimeout(grantEnd);
    const endMs = grants.nextEndMs(connection.serviceNowMs);
    if (endMs === undefined) return;
    const waitMs = Math.min(MAX_TIMER_MS, Math.max(0, endMs - connection.serviceNowMs) + 5);
    grantEnd = setTimeout(onChanged, waitMs);
  }
  function onChanged(): void {
    inBackground('showing what changed', showChanged());
  }
  function showChanged(): Promise<void> {
    if (holder.isStopped) tellStopped('the person here pressed Stop');
    lease.check();
    files.check();
    armGrantEnd();
    const allowed = holder.isStopped || isPrivate() ? [] : watchers();
    wordsDesk.follow(allowed);
    picture.setWatchers(allowed).catch((error: unknown) => log.error({ err: error }, 'the screen cannot be watched'));
    const nowMs = connection.serviceNowMs;
    const isAtDoor = visitDesk !== undefined && !holder.isStopped && !isOver(connection.state);
    const words =
      bannerWords(
        connection.state,
        lease.isOpen,
        (permission, signKey) => grants.holds(permission, signKey, nowMs),
        areWordsCompared,
        { isWallpaperHidden, isPrivate: isPrivate(), isAway: presence.isAway },
      ) ?? (isAtDoor ? atTheDoorWords(connection.state, visitDesk.hasBegun) : undefined);
    const key = JSON.stringify(words);
    if (key === banner) return Promise.resolve();
    banner = key;
    return desktop.showBanner(words).catch((error: unknown) => log.error({ err: error }, 'the banner cannot be shown'));
  }
  picture.tellWallpaper = (isHidden) => {
    isWallpaperHidden = isHidden;
    return showChanged();
  };
  connection.on('viewers', onChanged);
  connection.on('status', (status) => {
    // Without the service nobody watches; the grants stay, for the line may come back.
    if (status !== 'live') connection.viewers = [];
    onChanged();
  });
  let isEnding = false;
  const screenGone = new Promise<string>((resolve) => {
    desktop.onGone((why) => {
      // Closed by ourselves at the end, or the end came first: then it is no loss.
      if (isEnding || isOver(connection.state) || signal.aborted) return;
      log.error({ why: why.message }, 'the screen is gone');
      grants.dropAll();
      holder.report((fact) => ({ type: 'loseScreen', why: 'the screen of the computer went away', fact }));
      resolve('the screen is gone');
    });
  });
  // A visit begins with the second secret; whoever sits here is asked only when the technician wants that.
  if (!visitDesk)
    holder
      .askAtTheDoor()
      .catch((error: unknown) => log.warn({ why: String(error) }, 'the questions at the door were not answered'));
  // Taken back in this session, by whomever: then the standing consent goes with all that belongs to it.
  const offKept = connection.on('entry', ({ event }) => {
    if (event.type === 'permissionWithdrawn' && event.permission === 'keep-device' && keepDesk)
      options.keepIn?.onDropped();
  });
  holder.begin();
  onChanged();
  const why = await Promise.race([ended, screenGone, stopped]);

  isEnding = true;
  grants.dropAll();
  offFrames();
  offKept();
  offPrivate();
  presence.close();
  visitDesk?.close();
  offRoom();
  clearTimeout(grantEnd);
  lease.close();
  await files.close();
  picture.close();
  holder.close();
  await desktop.showBanner(undefined).catch(() => undefined);
  if (signal.aborted && !isOver(connection.state))
    connection.command({ type: 'leaveSession', reason: 'Doorstep was closed' }).catch(() => undefined);
  await delivered(journal, connection, signal);
  holder.end();
  await journal.close();
  connection.close();
  sessionKeys.forget();
  return why;
}

/** Whether a program that came back with its pairs came too late: its place was given up. */
async function hasLostItsPlace(connection: LiveConnection): Promise<boolean> {
  try {
    await connection.ready();
  } catch {
    return false; // Not let in at all: whoever waits for this connection hears why.
  }
  const { state, participantId } = connection;
  return !isOver(state) && (state.participants[participantId]?.isGone ?? false);
}

async function tellWhatWasLeft(
  connection: LiveConnection,
  stateFolder: string,
  sessionId: string,
  signal: AbortSignal,
): Promise<void> {
  const journal = new FactJournal(stateFolder, sessionId);
  for (const { id, command } of journal.waiting)
    connection.command(command, id).then(
      () => journal.markDelivered(id),
      (error: AppError) => {
        if (error.spec.isFinal) journal.markDelivered(id);
      },
    );
  await delivered(journal, connection, signal);
  await journal.close();
  connection.close();
}

/** Waits until the service has every fact, and no longer than is decent when somebody wants us gone. */
async function delivered(journal: FactJournal, connection: LiveConnection, signal: AbortSignal): Promise<void> {
  const startedAtMs = performance.now();
  const giveUpAtMs = () => startedAtMs + (signal.aborted ? HURRIED_FAREWELL_MS : FAREWELL_MS);
  while (journal.waiting.length && connection.status !== 'closed' && performance.now() < giveUpAtMs())
    await new Promise((resolve) => setTimeout(resolve, 50));
}
