import type { BannerPort, CopyPort, HandsPort, HidingPort, PersonPort } from './desktop-ports.ts';
import type { FilesPort } from './files-port.ts';
import type { KeepPort, VisitPort } from './standing-port.ts';
import type { ScreenSource } from '../picture/screen-source.ts';
import type { SealingCodecs } from '../picture/share-port.ts';

/** What this host has of a computer. What is missing here its abilities cannot do, and say so. */
export interface HostPorts {
  readonly person: PersonPort;
  readonly banner: BannerPort;
  readonly screen?: ScreenSource;
  readonly codecs?: SealingCodecs;
  readonly hiding?: HidingPort;
  readonly hands?: HandsPort;
  readonly copy?: CopyPort;
  readonly files?: FilesPort;
  readonly visit?: VisitPort;
  readonly keep?: KeepPort;
}
