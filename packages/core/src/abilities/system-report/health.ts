import type { ProgramChange, ReportParts } from './report.ts';

/** Less than this share of a volume free is trouble; less than the second is worth a word. */
const FULL_SHARE = 0.06;
const NARROW_SHARE = 0.15;
/** Small volumes that are full by design are no trouble: what starts a computer, and what lies in memory. */
const SMALL_BYTES = 1024 ** 3;
const LITTLE_MEMORY_SHARE = 0.08;
const BUSY_PER_CORE = 2;
const WORN_PERCENT = 60;
const LOW_PERCENT = 15;
const NEW_MS = 14 * 86_400_000;
const MAX_CHANGES_SAID = 4;

/** Something of a report that a technician should know first, the worst before the rest. */
export type HealthSign =
  | { readonly sign: 'full' | 'narrow'; readonly at: string; readonly percent: number }
  | { readonly sign: 'read-only'; readonly at: string }
  | { readonly sign: 'service-failed'; readonly name: string }
  | { readonly sign: 'little-memory'; readonly percent: number }
  | { readonly sign: 'busy'; readonly times: number }
  | { readonly sign: 'no-network' | 'desk-not-reached' | 'wants-restart' | 'no-firewall' }
  | { readonly sign: 'battery-worn' | 'battery-low'; readonly percent: number }
  | { readonly sign: 'security-updates' | 'changed-besides'; readonly count: number }
  | {
      readonly sign: 'changed-lately';
      readonly name: string;
      readonly from?: string;
      readonly to?: string;
      readonly atMs: number;
    };

/** Which of them are faults, and not only worth a word. */
const faults: ReadonlySet<HealthSign['sign']> = new Set([
  'full',
  'read-only',
  'service-failed',
  'little-memory',
  'no-network',
  'battery-low',
]);
export const isFault = ({ sign }: HealthSign): boolean => faults.has(sign);

const percentOf = (share: number): number => Math.round(share * 100);

/** What stands out in what is known so far; faults first. */
export function healthOf(parts: ReportParts, nowMs: number): HealthSign[] {
  const signs = [
    ...storageSigns(parts),
    ...(parts.services?.failed.map((name) => ({ sign: 'service-failed' as const, name })) ?? []),
    ...memorySigns(parts),
    ...networkSigns(parts),
    ...batterySigns(parts),
    ...(parts.system?.wantsRestart ? [{ sign: 'wants-restart' as const }] : []),
    ...(parts.security?.firewall === 'off' ? [{ sign: 'no-firewall' as const }] : []),
    ...(parts.updates?.security ? [{ sign: 'security-updates' as const, count: parts.updates.security }] : []),
    ...changeSigns(parts, nowMs),
  ];
  return [...signs.filter(isFault), ...signs.filter((sign) => !isFault(sign))];
}

function* storageSigns({ storage }: ReportParts): Generator<HealthSign> {
  for (const { at, totalBytes, freeBytes, isReadOnly } of storage?.volumes ?? []) {
    const share = totalBytes ? freeBytes / totalBytes : 1;
    const percent = percentOf(1 - share);
    if (isReadOnly) yield { sign: 'read-only', at };
    else if (share < FULL_SHARE) yield { sign: 'full', at, percent };
    else if (share < NARROW_SHARE && totalBytes > SMALL_BYTES) yield { sign: 'narrow', at, percent };
  }
}

function* memorySigns({ memory }: ReportParts): Generator<HealthSign> {
  if (!memory?.totalBytes) return;
  const share = memory.availableBytes / memory.totalBytes;
  if (share < LITTLE_MEMORY_SHARE) yield { sign: 'little-memory', percent: percentOf(1 - share) };
  if (memory.loadPerCore >= BUSY_PER_CORE) yield { sign: 'busy', times: Math.round(memory.loadPerCore * 10) / 10 };
}

function* networkSigns({ network }: ReportParts): Generator<HealthSign> {
  if (!network || network.desk.isReached) return;
  yield { sign: network.interfaces.some(({ isUp }) => isUp) ? 'desk-not-reached' : 'no-network' };
}

function* batterySigns({ battery }: ReportParts): Generator<HealthSign> {
  if (!battery?.isThere) return;
  const { percent, isCharging, healthPercent } = battery;
  if (percent !== undefined && percent < LOW_PERCENT && !isCharging) yield { sign: 'battery-low', percent };
  if (healthPercent !== undefined && healthPercent < WORN_PERCENT)
    yield { sign: 'battery-worn', percent: healthPercent };
}

/**
 * The last change of each program, of the last two weeks: whatever broke since is often one of these. What was brought to
 * another version or taken away comes before what is new there; many at once are said by their number.
 */
function* changeSigns({ programs }: ReportParts, nowMs: number): Generator<HealthSign> {
  const lately = new Map<string, ProgramChange>();
  for (const change of programs?.changes ?? [])
    if (nowMs - change.atMs <= NEW_MS && !lately.has(change.name)) lately.set(change.name, change);
  const all = [...lately.values()];
  const inOrder = [...all.filter(({ from }) => from !== undefined), ...all.filter(({ from }) => from === undefined)];
  for (const { name, from, to, atMs } of inOrder.slice(0, MAX_CHANGES_SAID))
    yield {
      ...{ sign: 'changed-lately', name, atMs },
      ...(from === undefined ? {} : { from }),
      ...(to === undefined ? {} : { to }),
    };
  const count = inOrder.length - MAX_CHANGES_SAID;
  if (count > 0) yield { sign: 'changed-besides', count };
}
