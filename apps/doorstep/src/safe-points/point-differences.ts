import type { PointDifference } from '@porch/core';
import { relative } from 'node:path';
import { hashOf, placesIn, type FileState, type FoundFile } from './file-states.ts';
import { packagesNow, servicesNow, type ServiceState } from './service-states.ts';

type Now = Exclude<FileState, { kind: 'file' }> | FoundFile;
/** A place that is other than it was: what stood there, if anything, and what does now. */
export interface OtherPlace {
  readonly path: string;
  readonly was: FileState | undefined;
  readonly now: Now | undefined;
}

async function isSame(was: FileState, now: Now, signal: AbortSignal): Promise<boolean> {
  if (was.kind === 'file' && now.kind === 'found') {
    if (was.sizeBytes !== now.sizeBytes || was.mode !== now.mode) return false;
    return (await hashOf(now.path, signal)).sha256 === was.sha256;
  }
  if (was.kind === 'folder' && now.kind === 'folder') return was.mode === now.mode;
  if (was.kind === 'link' && now.kind === 'link') return was.to === now.to;
  return was.kind === 'nothing' && now.kind === 'nothing';
}

/** Everything in these places that is other than it was. Every file is read: neither size nor time says enough. */
export async function otherPlaces(
  roots: readonly string[],
  states: readonly FileState[],
  signal: AbortSignal,
): Promise<OtherPlace[]> {
  const before = new Map(states.map((state) => [state.path, state]));
  const others: OtherPlace[] = [];
  for (const root of roots)
    for await (const now of placesIn(root, signal)) {
      const was = before.get(now.path);
      before.delete(now.path);
      if (!was) others.push({ path: now.path, was: undefined, now });
      else if (!(await isSame(was, now, signal))) others.push({ path: now.path, was, now });
    }
  for (const [path, was] of before) if (was.kind !== 'nothing') others.push({ path, was, now: undefined });
  return others;
}

/** A service that runs, or begins, otherwise than it did. */
export interface OtherService {
  readonly was: ServiceState;
  readonly now: ServiceState | undefined;
}
export async function otherServices(was: readonly ServiceState[], signal: AbortSignal): Promise<OtherService[]> {
  const now = new Map(
    (
      await servicesNow(
        was.map(({ id }) => id),
        signal,
      )
    ).map((one) => [one.id, one]),
  );
  return was.flatMap((one) => {
    const then = now.get(one.id);
    return then?.runs === one.runs && then.begins === one.begins ? [] : { was: one, now: then };
  });
}

/** A package that came, went, or has another version: by name and architecture. */
export interface OtherPackage {
  readonly id: string;
  readonly from: string | undefined;
  readonly to: string | undefined;
}
export function otherPackages(was: Readonly<Record<string, string>> | undefined): OtherPackage[] {
  if (!was) return [];
  const now = packagesNow();
  return [...new Set([...Object.keys(was), ...Object.keys(now)])].flatMap((id) =>
    was[id] === now[id] ? [] : { id, from: was[id], to: now[id] },
  );
}
export function toldPackage({ id, from, to }: OtherPackage): PointDifference {
  const is = from === undefined ? 'came' : to === undefined ? 'gone' : 'changed';
  const name = id.split(':')[0] ?? id;
  return { what: 'package', name, is, ...(from ? { from } : {}), ...(to ? { to } : {}) };
}

const kindOf = (place: FileState | Now | undefined) => place && place.kind !== 'nothing';
/** As a technician reads it: by its place in the home of the person. */
export const toldPlace = (home: string, { path, was, now }: OtherPlace): PointDifference => ({
  what: 'file',
  name: relative(home, path).slice(0, 400),
  is: !kindOf(was) ? 'came' : !kindOf(now) ? 'gone' : 'changed',
});
const toldState = ({ runs, begins }: ServiceState): string => `${runs ? 'running' : 'stopped'}, ${begins}`;
export const toldService = ({ was, now }: OtherService): PointDifference => ({
  ...{ what: 'service', name: was.name.slice(0, 120), is: now ? 'changed' : 'gone', from: toldState(was) },
  ...(now ? { to: toldState(now) } : {}),
});
