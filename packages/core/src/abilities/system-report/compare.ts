import type { ProgramChange, ReportParts, SystemReport } from './report.ts';

/** Room on a volume that went or came by this share of it is a change; less is the weather. */
const ROOM_SHARE = 0.05;

/** One thing that is other than it was at an earlier report of the same device. */
export type Difference =
  | { readonly what: 'program'; readonly change: ProgramChange }
  | { readonly what: 'system' | 'kernel' | 'processor' | 'gateway'; readonly from: string; readonly to: string }
  | { readonly what: 'memory'; readonly fromBytes: number; readonly toBytes: number }
  | { readonly what: 'room'; readonly at: string; readonly fromBytes: number; readonly toBytes: number }
  | { readonly what: 'volume-came' | 'volume-went'; readonly at: string }
  | { readonly what: 'service-failed' | 'service-mended'; readonly name: string }
  | { readonly what: 'firewall' | 'encryption'; readonly from: string; readonly to: string }
  | { readonly what: 'displays'; readonly from: number; readonly to: number };

/** What is other now: only of parts that both have. Programs by the computer's own log, from the earlier report on. */
export function compareReports(earlier: SystemReport, now: SystemReport): Difference[] {
  const [before, after] = [earlier.parts, now.parts];
  return [
    ...programsSince(after, earlier),
    ...named('system', before.system?.name, after.system?.name),
    ...named('kernel', before.system?.kernel, after.system?.kernel),
    ...named('processor', before.hardware?.processor, after.hardware?.processor),
    ...memoryChanged(before, after),
    ...volumesChanged(before, after),
    ...servicesChanged(before, after),
    ...named('gateway', before.network?.gateway, after.network?.gateway),
    ...named('firewall', before.security?.firewall, after.security?.firewall),
    ...named('encryption', before.security?.encryption, after.security?.encryption),
    ...displaysChanged(before, after),
  ];
}

const keyOf = ({ name, from, to, atMs }: ProgramChange): string => JSON.stringify([name, from, to, atMs]);

/**
 * What the log has since: by what the earlier report had of the same log, so that no two clocks are compared. Where it had
 * none, by when it was taken.
 */
function changesSince({ parts, takenAtMs }: SystemReport, now: readonly ProgramChange[]): ProgramChange[] {
  const before = parts.programs?.changes ?? [];
  if (!before.length) return now.filter(({ atMs }) => atMs > takenAtMs);
  const known = new Set(before.map(keyOf));
  const newestMs = Math.max(...before.map(({ atMs }) => atMs));
  return now.filter((change) => change.atMs >= newestMs && !known.has(keyOf(change)));
}

/** From what each program was then to what it is now: of several changes the first and the last count. */
function programsSince({ programs }: ReportParts, earlier: SystemReport): Difference[] {
  const net = new Map<string, ProgramChange>();
  // The log has the last first; those of one second stay in its order.
  for (const change of changesSince(earlier, programs?.changes ?? []).toReversed()) {
    const known = net.get(change.name);
    const { name, to, atMs } = change;
    const from = known ? known.from : change.from;
    net.set(name, { name, ...(from === undefined ? {} : { from }), ...(to === undefined ? {} : { to }), atMs });
  }
  return [...net.values()]
    .filter(({ from, to }) => from !== to)
    .sort((a, b) => b.atMs - a.atMs)
    .map((change) => ({ what: 'program', change }));
}

function named<W extends 'system' | 'kernel' | 'processor' | 'gateway' | 'firewall' | 'encryption'>(
  what: W,
  from: string | undefined,
  to: string | undefined,
): { what: W; from: string; to: string }[] {
  return from === undefined || to === undefined || from === to ? [] : [{ what, from, to }];
}

function* memoryChanged(before: ReportParts, after: ReportParts): Generator<Difference> {
  const [fromBytes, toBytes] = [before.memory?.totalBytes, after.memory?.totalBytes];
  if (fromBytes !== undefined && toBytes !== undefined && fromBytes !== toBytes)
    yield { what: 'memory', fromBytes, toBytes };
}

function* volumesChanged(before: ReportParts, after: ReportParts): Generator<Difference> {
  if (!before.storage || !after.storage) return;
  const was = new Map(before.storage.volumes.map((volume) => [volume.at, volume]));
  for (const { at, totalBytes, freeBytes } of after.storage.volumes) {
    const earlier = was.get(at);
    was.delete(at);
    if (!earlier) yield { what: 'volume-came', at };
    else if (Math.abs(earlier.freeBytes - freeBytes) > ROOM_SHARE * totalBytes)
      yield { what: 'room', at, fromBytes: earlier.freeBytes, toBytes: freeBytes };
  }
  for (const at of was.keys()) yield { what: 'volume-went', at };
}

function* servicesChanged(before: ReportParts, after: ReportParts): Generator<Difference> {
  if (!before.services || !after.services) return;
  const [was, is] = [new Set(before.services.failed), new Set(after.services.failed)];
  for (const name of is) if (!was.has(name)) yield { what: 'service-failed', name };
  for (const name of was) if (!is.has(name)) yield { what: 'service-mended', name };
}

function* displaysChanged(before: ReportParts, after: ReportParts): Generator<Difference> {
  const [from, to] = [before.display?.displays.length, after.display?.displays.length];
  if (from !== undefined && to !== undefined && from !== to) yield { what: 'displays', from, to };
}
