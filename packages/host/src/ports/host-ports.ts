import type { WhyNot } from '@porch/core';
import type { BannerPort, InkPort, HandsPort, PersonPort } from './desktop-ports.ts';
import type { DesktopsPort } from './desktops-port.ts';
import type { FrontPort } from './front-port.ts';
import type { HidingPort } from './hiding-port.ts';
import type { CameraPort } from './camera-port.ts';
import type { ClipboardPort } from './clipboard-port.ts';
import type { HandsOffPort } from './hands-off-port.ts';
import type { VoicePort } from '@porch/client';
import type { SoundPort } from './sound-port.ts';
import type { FilesPort } from './files-port.ts';
import type { SecretsPort } from './secrets-port.ts';
import type { ShownScreenPort } from './shown-screen-port.ts';
import type { KeepPort, VisitPort } from './standing-port.ts';
import type { SystemPort } from './system-port.ts';
import type { ProgramsPort } from './programs-port.ts';
import type { PrintsPort } from './prints-port.ts';
import type { RestartPort } from './restart-port.ts';
import type { RightsPort } from './rights-port.ts';
import type { RunbookPort } from './runbook-port.ts';
import type { CommandLinePort } from './command-line-port.ts';
import type { LinesWindowPort } from './lines-window-port.ts';
import type { SafePointsPort } from './safe-points-port.ts';
import type { ScreenSource } from '../picture/screen-source.ts';
import type { SealingCodecs } from '../picture/share-port.ts';

export type OptionalPort =
  | 'screen'
  | 'codecs'
  | 'hiding'
  | 'hands'
  | 'ink'
  | 'clipboard'
  | 'sound'
  | 'voice'
  | 'camera'
  | 'shownScreen'
  | 'handsOff'
  | 'files'
  | 'system'
  | 'programs'
  | 'safePoints'
  | 'runbook'
  | 'commandLine'
  | 'linesWindow'
  | 'rights'
  | 'restart'
  | 'prints'
  | 'desktops';

/** What this host has of a computer. What is missing here its abilities cannot do, and say so. */
export interface HostPorts {
  /** Why one is missing, where there is more to say than that this program does not have it. */
  readonly missing?: Readonly<Partial<Record<OptionalPort, WhyNot>>>;
  /** Hears when one that was there is missing now, or the other way round. */
  onMissingChanged?(listener: () => void): () => void;
  readonly person: PersonPort;
  readonly banner: BannerPort;
  readonly screen?: ScreenSource;
  readonly codecs?: SealingCodecs;
  readonly hiding?: HidingPort;
  readonly hands?: HandsPort;
  readonly ink?: InkPort;
  readonly clipboard?: ClipboardPort;
  readonly sound?: SoundPort;
  readonly voice?: VoicePort;
  readonly camera?: CameraPort;
  readonly shownScreen?: ShownScreenPort;
  readonly handsOff?: HandsOffPort;
  readonly files?: FilesPort;
  readonly system?: SystemPort;
  readonly programs?: ProgramsPort;
  readonly safePoints?: SafePointsPort;
  readonly runbook?: RunbookPort;
  readonly commandLine?: CommandLinePort;
  /** Where the person here sees what is done on it. */
  readonly linesWindow?: LinesWindowPort;
  readonly rights?: RightsPort;
  readonly restart?: RestartPort;
  readonly prints?: PrintsPort;
  readonly desktops?: DesktopsPort;
  /** Where nobody can switch to another desktop, or that cannot be known, there is none. */
  readonly front?: FrontPort;
  readonly secrets?: SecretsPort;
  readonly visit?: VisitPort;
  readonly keep?: KeepPort;
}

/** Why what these ports do cannot be done here; undefined when all of them are there. */
export function whyWithout(ports: HostPorts, ...needed: readonly OptionalPort[]): WhyNot | undefined {
  const missing = needed.find((port) => ports[port] === undefined || ports.missing?.[port] !== undefined);
  return missing && (ports.missing?.[missing] ?? 'not-in-this-release');
}
