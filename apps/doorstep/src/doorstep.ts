import { realClock, realRandomness } from '@porch/wire';
import { fetchExchange, LiveConnection, RestClient, safeAddress, type SocketLike } from '@porch/client';
import { nodeCiphers } from '@porch/client/node';
import { allPermissions, isOver } from '@porch/core';
import { cannotWith, Host, hostAbilities, type HostPorts } from '@porch/host';
import type { AppError, ParticipantKeys } from '@porch/wire';
import { hostname, userInfo } from 'node:os';
import type { Logger } from 'pino';
import { WebSocket } from 'ws';
import { DEVICES, V4l2Cameras } from './camera/v4l2-cameras.ts';
import { comeIn } from './come-in.ts';
import type { DoorstepOptions } from './doorstep-options.ts';
import { LinuxDesktops } from './desktops/linux-desktops.ts';
import { LinuxFront } from './front/linux-front.ts';
import { FactJournal } from './consent/fact-journal.ts';
import { portsOf, type Door } from './ports-of.ts';
import { LinuxRestart } from './restart/linux-restart.ts';
import { readNotes } from './restart/return-note.ts';
import { SessionKeys } from './session-keys.ts';
import { SoundPorts } from './sound/sound-ports.ts';
import { warnTo } from './warn.ts';

/** What is still to be delivered after the end gets this long; after a signal only a moment. The journal keeps the rest. */
const FAREWELL_MS = 10 * 60_000;
const HURRIED_FAREWELL_MS = 1_500;

/** A service that gives places up at once keeps nobody busy. */
const COME_AGAIN_MS = 500;
/** A computer that starts may have its network later. */
const RETURN_PATIENCE_MS = 15 * 60_000;
const GOES_DOWN = 'the computer goes down';
const PLACE_GIVEN_UP = 'the line was gone for too long';

/** Joins a session and serves it until it ends. Resolves with why it ended. */
export async function runDoorstep(options: DoorstepOptions, signal: AbortSignal): Promise<string> {
  const { log, serviceUrl } = options;
  const rest = new RestClient(fetchExchange(safeAddress(serviceUrl)));
  const door = await comeIn(rest, options.invitation, log, signal, options.back ? RETURN_PATIENCE_MS : undefined);
  if (options.rung && !(await options.rung(door, options.desktop, signal))) return 'nobody here wanted it';
  const sessionKeys = new SessionKeys(options.stateFolder, door.sessionId, door.keyHalf, warnTo(log));
  const restart = await restartHere(options, { sessionKeys, token: rest.token ?? '', sessionId: door.sessionId });
  const front = await whereKnown(log, () => LinuxFront.open(warnTo(log)), 'whether another desktop is in front');
  const desktops = await whereKnown(log, () => LinuxDesktops.open(serviceUrl), 'who is signed in');
  const sound = await SoundPorts.open(options.soundEnv);
  const cameras = new V4l2Cameras(options.cameras ?? DEVICES, process.env['PATH'] ?? '');
  const screenGone = new Promise<Error>((resolve) => options.desktop.onGone(resolve));
  try {
    const ports = await portsOf(options, { sound, cameras, restart, front, desktops }, rest, door);
    const around = { ports, rest, door, sessionKeys, restart, screenGone, signal };
    let why = await serve(options, around);
    // The person did nothing: they come in again by themselves, allow nothing yet, and are asked anew. To a device that is
    // visited the desk has to come anew.
    while (why === PLACE_GIVEN_UP && !options.visit) {
      log.warn(`${PLACE_GIVEN_UP}: coming in anew`);
      await new Promise((resolve) => setTimeout(resolve, COME_AGAIN_MS));
      why = await serve(options, around);
    }
    return why;
  } finally {
    sound.close();
    cameras.close();
    restart?.close();
    front?.close();
    desktops?.close();
  }
}

/** What only this computer's own services know; undefined where there is none of them. */
async function whereKnown<T>(log: Logger, open: () => Promise<T>, what: string): Promise<T | undefined> {
  try {
    return await open();
  } catch (error) {
    log.info({ why: String(error) }, `${what} cannot be known here`);
    return undefined;
  }
}

/** Nobody restarts a computer at whose sign-in screen they are, nor one that is visited while its own program waits there for the visit. */
async function restartHere(
  { back, desktop, isSignInScreen, log, serviceUrl, startOptions, stateFolder, visit }: DoorstepOptions,
  of: { readonly sessionKeys: SessionKeys; readonly token: string; readonly sessionId: string },
): Promise<LinuxRestart | undefined> {
  if (visit || isSignInScreen) return undefined;
  const { sessionKeys: keys, ...session } = of;
  try {
    return await LinuxRestart.open(
      {
        ...{ ...session, keys, serviceUrl, stateFolder, options: startOptions },
        titles: () => desktop.titles?.() ?? Promise.resolve([]),
        warn: warnTo(log),
      },
      back ?? readNotes(stateFolder).find((note) => note.sessionId === of.sessionId),
    );
  } catch (error) {
    log.info({ why: String(error) }, 'this computer cannot be restarted from a session');
    return undefined;
  }
}

interface Around {
  readonly sessionKeys: SessionKeys;
  readonly restart: LinuxRestart | undefined;
  readonly ports: HostPorts;
  readonly rest: RestClient;
  readonly door: Door;
  /** Resolves once the screen is gone for good, with why. */
  readonly screenGone: Promise<Error>;
  readonly signal: AbortSignal;
}

/** One stay in the session, from coming in until it ends or the place is given up. */
async function serve(options: DoorstepOptions, around: Around): Promise<string> {
  const { ports, rest, door, sessionKeys, restart, screenGone, signal } = around;
  const { log, serviceUrl, stateFolder } = options;
  const connection = await connect(options, { rest, ports, sessionKeys, sessionId: door.sessionId, signal });
  restart?.begins();
  const ended = whenEnded(connection, signal);
  await Promise.race([connection.ready(), ended]);

  const { lastFact = 0 } = connection.state.participants[connection.participantId] ?? {};
  const journal = new FactJournal(stateFolder, door.sessionId, warnTo(log), lastFact);
  const host = new Host({
    connection,
    abilities: hostAbilities,
    ports,
    journal,
    desk: door,
    place: { address: new URL(serviceUrl).host, madeFor: options.madeFor },
    personName: userInfo().username,
    time: realClock,
    log,
    random: realRandomness,
  });
  let isOut = false;
  const screenLost = screenGone.then((why) => {
    // Closed by ourselves at the end, or the end came first: then it is no loss.
    if (isOut || isOver(connection.state) || signal.aborted) return ended;
    if (restart?.isGoingDown) return GOES_DOWN;
    log.error({ why: why.message }, 'the screen is gone');
    host.loseScreen();
    return 'the screen is gone';
  });
  host.begin();
  const stopped = host.stopped.then(() => 'the person here pressed Stop');
  const why = await Promise.race([ended, screenLost, stopped]);
  isOut = true;

  await host.close();
  // It goes down with its computer, and comes back with it: to a session that is over, only to take away what is left.
  const comesBack = restart?.isGoingDown === true;
  if (signal.aborted && !comesBack && !isOver(connection.state))
    connection.command({ type: 'leaveSession', reason: 'Doorstep was closed' }).catch(() => undefined);
  await delivered(journal, connection, comesBack ? AbortSignal.abort() : signal);
  host.end();
  await journal.close();
  connection.close();
  if (comesBack) return GOES_DOWN;
  await restart?.forget();
  sessionKeys.forget();
  return why;
}

/** Comes in with the pairs of an earlier start if there were any, and anew when its place was given up meanwhile. */
async function connect(
  { log, stateFolder }: Pick<DoorstepOptions, 'log' | 'stateFolder'>,
  around: Pick<Around, 'rest' | 'ports' | 'sessionKeys' | 'signal'> & { readonly sessionId: string },
): Promise<LiveConnection> {
  const { rest, ports, sessionKeys, sessionId, signal } = around;
  const cannot = cannotWith(hostAbilities, ports);
  const connectWith = (keys: ParticipantKeys) =>
    new LiveConnection({
      pass: () => rest.doorLive(),
      openSocket: (url) => new WebSocket(safeAddress(url)) as unknown as SocketLike,
      keys,
      ciphers: nodeCiphers,
      computer: hostname(),
      cannot,
      can: allPermissions.filter((permission) => cannot[permission] === undefined),
    });
  const { keys, isKept } = sessionKeys.take();
  const connection = connectWith(keys);
  if (!isKept || !(await hasLostItsPlace(connection))) return connection;
  // What was decided before is told in the old name; then we come in anew.
  await tellWhatWasLeft(connection, new FactJournal(stateFolder, sessionId, warnTo(log)), signal);
  return connectWith(sessionKeys.renew());
}

function whenEnded(connection: LiveConnection, signal: AbortSignal): Promise<string> {
  return new Promise((resolve) => {
    connection.on('failed', (error: AppError) => resolve(error.message));
    connection.on('entry', () => {
      if (isOver(connection.state)) resolve('the session has ended');
    });
    connection.on('caughtUp', () => {
      if (connection.state.participants[connection.participantId]?.isGone) resolve(PLACE_GIVEN_UP);
    });
    signal.addEventListener('abort', () => resolve('Doorstep was closed'), { once: true });
  });
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

async function tellWhatWasLeft(connection: LiveConnection, journal: FactJournal, signal: AbortSignal): Promise<void> {
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
