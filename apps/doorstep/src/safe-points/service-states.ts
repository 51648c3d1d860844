import type { ProgramAct } from '@porch/core';
import { z } from 'zod';
import { textOf } from '../system/text-of.ts';
import { ServicesList } from '../programs/services-list.ts';
import { installedOf } from '../programs/installed-list.ts';

/** How a service was: whether it ran, and whether it starts by itself. */
export const ServiceState = z.strictObject({ id: z.string(), name: z.string(), runs: z.boolean(), begins: z.string() });
export type ServiceState = z.infer<typeof ServiceState>;

/** What is done to a service so that it begins and runs as it should; in that order. */
export const actsFor = ({
  begins,
  runs,
}: {
  begins?: string | undefined;
  runs?: boolean | undefined;
}): ProgramAct[] => [
  ...(begins === 'by-itself' ? (['enable'] as const) : begins === 'by-hand' ? (['disable'] as const) : []),
  ...(runs === undefined ? [] : [runs ? ('start' as const) : ('stop' as const)]),
];

/** Those that are there, of those that are named. */
export async function servicesNow(ids: readonly string[], signal: AbortSignal): Promise<ServiceState[]> {
  if (!ids.length) return [];
  const rows = await new ServicesList().read(signal);
  return rows.flatMap(({ id, name, state, begins }) =>
    ids.includes(id) ? { id, name, begins, runs: state === 'running' || state === 'starting' } : [],
  );
}

/** Packages and their versions, by dpkg's own file; none where there is no dpkg. */
export function packagesNow(): Record<string, string> {
  const status = textOf('/var/lib/dpkg/status');
  return Object.fromEntries(status === undefined ? [] : installedOf(status).map(({ id, version }) => [id, version]));
}
