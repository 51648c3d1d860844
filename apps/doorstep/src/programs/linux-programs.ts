import type { ProgramList } from '@porch/core';
import type { ProgramReading, ProgramsPort } from '@porch/host';
import { EntriesList } from './entries-list.ts';
import { InstalledList } from './installed-list.ts';
import { JobsList } from './jobs-list.ts';
import { planFor } from './plans.ts';
import { PortsList } from './ports-list.ts';
import { ProcessesList } from './processes-list.ts';
import { ServicesList } from './services-list.ts';

const lists: Readonly<Record<ProgramList, new () => ProgramReading>> = {
  processes: ProcessesList,
  services: ServicesList,
  entries: EntriesList,
  installed: InstalledList,
  ports: PortsList,
  jobs: JobsList,
};

/** What runs, is installed and waits under Linux, systemd and Debian, with the rights of the person's own account. */
export const linuxPrograms: ProgramsPort = { open: (list) => new lists[list](), plan: planFor };
