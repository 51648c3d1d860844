import type { PartOf, ReportPart } from '@porch/core';
import { PartMissing, type SystemPort } from '@porch/host';
import { cardsOf, readBattery, readHardware, readMemory, readSystem } from './computer-parts.ts';
import { readNetwork } from './network-part.ts';
import { readPrograms, readUpdates } from './programs-part.ts';
import { readProcesses, readServices } from './running-parts.ts';
import { readSecurity } from './security-part.ts';
import { readStorage } from './storage-part.ts';
import { textOf } from './text-of.ts';

/** What the rest of this program knows of the computer already. */
export interface KnownHere {
  readonly serviceUrl: string;
  hasSound(): boolean;
  readonly displays: (() => Promise<PartOf<'display'>['displays']>) | undefined;
}

type Readers = { readonly [P in ReportPart]: (signal: AbortSignal) => PartOf<P> | Promise<PartOf<P>> };

/** Reads what Linux and Debian tell of themselves, with the rights of the person's own account. */
export function linuxSystem({ serviceUrl, hasSound, displays }: KnownHere): SystemPort {
  // In the order of how soon they are there: quick ones are not held up by those that ask other programs.
  const readers: Readers = {
    system: () => readSystem(),
    storage: () => readStorage(),
    memory: () => readMemory(),
    programs: () => readPrograms(),
    network: (signal) => readNetwork(new URL(serviceUrl), signal),
    hardware: () => readHardware(),
    display: async () => {
      if (!displays) throw new PartMissing('not-there');
      return { server: 'X11', displays: await displays() };
    },
    sound: () => ({ isServed: hasSound(), cards: cardsOf(textOf('/proc/asound/cards') ?? '') }),
    battery: () => readBattery(),
    services: readServices,
    processes: readProcesses,
    security: readSecurity,
    updates: readUpdates,
  };
  return {
    parts: Object.keys(readers) as ReportPart[],
    // Each in a turn of its own: what it throws is its own.
    read: async (part, signal) => readers[part](signal),
  };
}
