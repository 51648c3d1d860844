import type { RestClient } from '@porch/client';
import type { DesktopsPort, FrontPort, HostPorts, OptionalPort } from '@porch/host';
import { realClock } from '@porch/wire';
import { join } from 'node:path';
import type { V4l2Cameras } from './camera/v4l2-cameras.ts';
import type { comeIn } from './come-in.ts';
import { linuxCommandLine } from './command-line/linux-command-line.ts';
import { loadSpawn } from './command-line/load-spawn.ts';
import { keepPort, visitPort } from './device/standing-ports.ts';
import type { DoorstepOptions } from './doorstep-options.ts';
import { homeFiles } from './files/home-files.ts';
import { Pieces } from './files/pieces.ts';
import { nodeCodecs } from './picture/node-codecs.ts';
import { linuxPrints } from './prints/linux-prints.ts';
import { linuxPrograms } from './programs/linux-programs.ts';
import type { LinuxRestart } from './restart/linux-restart.ts';
import { linuxRights } from './rights/linux-rights.ts';
import { linuxRunbook } from './runbook/linux-runbook.ts';
import { PointStore } from './safe-points/point-store.ts';
import type { SoundPorts } from './sound/sound-ports.ts';
import { linuxSystem } from './system/linux-system.ts';

export type Door = Awaited<ReturnType<typeof comeIn>>;

/** What comes and goes by itself, or is looked after elsewhere. */
interface OpenParts {
  readonly sound: SoundPorts;
  readonly cameras: V4l2Cameras;
  /** Undefined where this computer cannot be restarted, or not in this session. */
  readonly restart: LinuxRestart | undefined;
  readonly front: FrontPort | undefined;
  readonly desktops: DesktopsPort | undefined;
}

/** What this computer has for the abilities of a session. */
export async function portsOf(
  options: DoorstepOptions,
  { sound, cameras, restart, front, desktops }: OpenParts,
  rest: RestClient,
  door: Door,
): Promise<HostPorts> {
  if (options.isSignInScreen) return portsOfSignInScreen(options, { front, desktops });
  const { desktop, visit, keepIn, home, downloads, stateFolder, serviceUrl, log } = options;
  dropStalePieces(options, door);
  const safePoints = safePointsOf(options, door);
  const spawn = await loadSpawn(log);
  const rights = linuxRights();
  const prints = linuxPrints({ log, guard: options.guard });
  const lacking = lackingOf({ rights, restart, prints, desktops });
  const canKeep = keepIn !== undefined && !keepIn.store.exists && door.standingConsentDays > 0;
  return {
    ...desktop.ports,
    ...sound.ports,
    camera: cameras,
    // All of them come and go, each by itself.
    get missing() {
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
    ...(restart ? { restart } : {}),
    ...(prints ? { prints } : {}),
    ...(desktops ? { desktops } : {}),
    ...(front ? { front } : {}),
    runbook: linuxRunbook({ home, own: [stateFolder], guard: options.guard }),
    files: homeFiles({
      ...{ home, downloads, sessionId: door.sessionId, own: [stateFolder] },
      comesBack: () => restart?.isGoingDown === true,
    }),
    ...(visit ? { visit: visitPort(visit) } : {}),
    ...(canKeep
      ? {
          keep: keepPort({ ...keepIn, rest, serviceUrl, deskName: door.deskName, mostDays: door.standingConsentDays }),
        }
      : {}),
  };
}

/** Nobody is signed in there, so nothing is done as anybody. */
const NOT_AT_SIGN_IN: readonly OptionalPort[] = [
  ...(['clipboard', 'sound', 'voice', 'camera', 'files', 'system', 'programs', 'safePoints'] as const),
  ...(['runbook', 'commandLine', 'linesWindow', 'rights', 'restart', 'prints'] as const),
];
/** A sign-in screen is seen and worked, and that is all. */
async function portsOfSignInScreen(
  { desktop }: DoorstepOptions,
  { front, desktops }: Pick<OpenParts, 'front' | 'desktops'>,
): Promise<HostPorts> {
  const { clipboard: _clipboard, linesWindow: _lines, ...seen } = desktop.ports;
  const missing = Object.fromEntries(NOT_AT_SIGN_IN.map((port) => [port, 'nobody-signed-in' as const]));
  return {
    ...seen,
    missing: { ...seen.missing, ...missing },
    codecs: await nodeCodecs(),
    ...(front ? { front } : {}),
    ...(desktops ? { desktops } : {}),
  };
}

/** What this computer does not have, as it is said of each. */
const lackingOf = (ports: Readonly<Record<string, unknown>>): HostPorts['missing'] =>
  Object.fromEntries(
    Object.entries(ports).flatMap(([name, port]) => (port === undefined ? [[name, 'computer-cannot' as const]] : [])),
  );

function dropStalePieces({ downloads, log }: DoorstepOptions, { sessionId }: Door): void {
  new Pieces(downloads, sessionId)
    .removeStale()
    .catch((error: unknown) =>
      log.warn({ why: String(error) }, 'pieces of files that never arrived could not be looked for'),
    );
}

function safePointsOf({ home, stateFolder, log }: DoorstepOptions, { sessionId }: Door): PointStore {
  const safePoints = new PointStore({
    ...{ home, folder: join(stateFolder, 'safe-points'), own: [stateFolder], sessionId },
    nowMs: () => realClock.wallMs(),
  });
  safePoints
    .dropStale()
    .catch((error: unknown) => log.warn({ why: String(error) }, 'old safe points could not be looked for'));
  return safePoints;
}
