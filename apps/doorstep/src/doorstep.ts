import { realClock, realRandomness } from '@porch/wire';
import { fetchExchange, LiveConnection, RestClient, safeAddress, type SocketLike } from '@porch/client';
import { nodeCiphers } from '@porch/client/node';
import { allPermissions, isOver } from '@porch/core';
import { cannotWith, Host, hostAbilities, type HostPorts } from '@porch/host';
import type { AppError, ParticipantKeys } from '@porch/wire';
import { hostname, userInfo } from 'node:os';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { WebSocket } from 'ws';
import { DEVICES, V4l2Cameras } from './camera/v4l2-cameras.ts';
import { comeIn, type ComingIn } from './come-in.ts';
import { FactJournal } from './consent/fact-journal.ts';
import type { Desktop } from './desktop/desktop.ts';
import { keepPort, visitPort } from './device/standing-ports.ts';
import type { Standing, StandingStore } from './device/standing-store.ts';
import { homeFiles } from './files/home-files.ts';
import { Pieces } from './files/pieces.ts';
import { nodeCodecs } from './picture/node-codecs.ts';
import { SessionKeys } from './session-keys.ts';
import { linuxPrograms } from './programs/linux-programs.ts';
import { linuxCommandLine } from './command-line/linux-command-line.ts';
import { loadSpawn } from './command-line/load-spawn.ts';
import { linuxRights } from './rights/linux-rights.ts';
import { linuxRunbook } from './runbook/linux-runbook.ts';
import type { RunGuard } from './runs/run-guard.ts';
import { PointStore } from './safe-points/point-store.ts';
import { SoundPorts } from './sound/sound-ports.ts';
import { linuxSystem } from './system/linux-system.ts';

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
  /** Where the sound server is looked for. */
  readonly soundEnv?: NodeJS.ProcessEnv;
  /** Where devices of cameras are looked for. */
  readonly cameras?: string;
  readonly stateFolder: string;
  /** Ends what runs for the desk when this process dies. */
  readonly guard: RunGuard;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
}

/** What is still to be delivered after the end gets this long; after a signal only a moment. The journal keeps the rest. */
const FAREWELL_MS = 10 * 60_000;
const HURRIED_FAREWELL_MS = 1_500;

/** A service that gives places up at once keeps nobody busy. */
const COME_AGAIN_MS = 500;
const PLACE_GIVEN_UP = 'the line was gone for too long';

/** Joins a session and serves it until it ends. Resolves with why it ended. */
export async function runDoorstep(options: DoorstepOptions, signal: AbortSignal): Promise<string> {
  const { log, serviceUrl } = options;
  const rest = new RestClient(fetchExchange(safeAddress(serviceUrl)));
  const door = await comeIn(rest, options.invitation, log, signal);
  const sound = await SoundPorts.open(options.soundEnv);
  const cameras = new V4l2Cameras(options.cameras ?? DEVICES, process.env['PATH'] ?? '');
  const screenGone = new Promise<Error>((resolve) => options.desktop.onGone(resolve));
  try {
    const around = { ports: await portsOf(options, { sound, cameras }, rest, door), rest, door, screenGone, signal };
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
  }
}

interface Around {
  readonly ports: HostPorts;
  readonly rest: RestClient;
  readonly door: Door;
  /** Resolves once the screen is gone for good, with why. */
  readonly screenGone: Promise<Error>;
  readonly signal: AbortSignal;
}

/** One stay in the session, from coming in until it ends or the place is given up. */
async function serve(options: DoorstepOptions, { ports, rest, door, screenGone, signal }: Around): Promise<string> {
  const { log, serviceUrl, stateFolder } = options;
  const sessionKeys = new SessionKeys(stateFolder, door.sessionId);
  const connection = await connect(options, rest, ports, sessionKeys, door.sessionId, signal);
  const ended = whenEnded(connection, signal);
  await Promise.race([connection.ready(), ended]);

  const { lastFact = 0 } = connection.state.participants[connection.participantId] ?? {};
  const journal = new FactJournal(stateFolder, door.sessionId, lastFact);
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
    log.error({ why: why.message }, 'the screen is gone');
    host.loseScreen();
    return 'the screen is gone';
  });
  host.begin();
  const stopped = host.stopped.then(() => 'the person here pressed Stop');
  const why = await Promise.race([ended, screenLost, stopped]);
  isOut = true;

  await host.close();
  if (signal.aborted && !isOver(connection.state))
    connection.command({ type: 'leaveSession', reason: 'Doorstep was closed' }).catch(() => undefined);
  await delivered(journal, connection, signal);
  host.end();
  await journal.close();
  connection.close();
  sessionKeys.forget();
  return why;
}

type Door = Awaited<ReturnType<typeof comeIn>>;

/** What this computer has for the abilities of a session. */
async function portsOf(
  options: DoorstepOptions,
  { sound, cameras }: { readonly sound: SoundPorts; readonly cameras: V4l2Cameras },
  rest: RestClient,
  door: Door,
): Promise<HostPorts> {
  const { desktop, visit, keepIn, home, downloads, stateFolder, serviceUrl, log } = options;
  new Pieces(downloads, door.sessionId)
    .removeStale()
    .catch((error: unknown) =>
      log.warn({ why: String(error) }, 'pieces of files that never arrived could not be looked for'),
    );
  const safePoints = new PointStore({
    ...{ home, folder: join(stateFolder, 'safe-points'), own: [stateFolder], sessionId: door.sessionId },
    nowMs: () => realClock.wallMs(),
  });
  safePoints
    .dropStale()
    .catch((error: unknown) => log.warn({ why: String(error) }, 'old safe points could not be looked for'));
  const spawn = await loadSpawn(log);
  const rights = linuxRights();
  const canKeep = keepIn !== undefined && !keepIn.store.exists && door.standingConsentDays > 0;
  return {
    ...desktop.ports,
    ...sound.ports,
    camera: cameras,
    // All of them come and go, each by itself.
    get missing() {
      const lacking = rights ? {} : { rights: 'computer-cannot' as const };
      return { ...desktop.ports.missing, ...sound.missing, ...cameras.missing, ...lacking };
    },
    onMissingChanged: (listener) => {
      const offs = [
        desktop.ports.onMissingChanged?.(listener),
        sound.onMissingChanged(listener),
        cameras.onMissingChanged(listener),
      ];
      return () => offs.forEach((off) => off?.());
    },
    codecs: await nodeCodecs(),
    system: linuxSystem({
      serviceUrl,
      hasSound: () => sound.missing.sound === undefined,
      displays: desktop.displays?.bind(desktop),
    }),
    programs: linuxPrograms,
    safePoints,
    ...(spawn ? { commandLine: linuxCommandLine({ home, guard: options.guard, spawn }) } : {}),
    ...(rights ? { rights } : {}),
    runbook: linuxRunbook({ home, own: [stateFolder], guard: options.guard }),
    files: homeFiles({ home, downloads, sessionId: door.sessionId, own: [stateFolder] }),
    ...(visit ? { visit: visitPort(visit) } : {}),
    ...(canKeep
      ? {
          keep: keepPort({ ...keepIn, rest, serviceUrl, deskName: door.deskName, mostDays: door.standingConsentDays }),
        }
      : {}),
  };
}

/** Comes in with the pairs of an earlier start if there were any, and anew when its place was given up meanwhile. */
async function connect(
  { stateFolder }: Pick<DoorstepOptions, 'stateFolder'>,
  rest: RestClient,
  ports: HostPorts,
  sessionKeys: SessionKeys,
  sessionId: string,
  signal: AbortSignal,
): Promise<LiveConnection> {
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
  await tellWhatWasLeft(connection, stateFolder, sessionId, signal);
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
