import type { ProgramRow } from '@porch/core';
import type { ProgramReading } from '@porch/host';
import { readdirSync, readlinkSync } from 'node:fs';
import { short, textOf } from '../system/text-of.ts';
import { accountOf } from '../system/process-table.ts';

/** proc(5), `net/tcp`: who listens is in this state; a datagram socket that waits for anybody is in the other. */
const LISTENS = '0A';
const UNCONNECTED = '07';
const AT_ONCE = 50;

/** Bytes of an address as the kernel prints them: words of four, each in this machine's order. */
export function addressOf(hex: string): string {
  const bytes = (hex.match(/.{8}/g) ?? []).flatMap((word) =>
    (word.match(/../g) ?? []).reverse().map((byte) => Number.parseInt(byte, 16)),
  );
  if (bytes.length === 4) return bytes.join('.');
  const groups = bytes.flatMap((byte, i) => (i % 2 ? [] : [((byte << 8) | (bytes[i + 1] ?? 0)).toString(16)]));
  const mapped = /^0:0:0:0:0:ffff:/.test(groups.join(':'));
  return mapped ? bytes.slice(12).join('.') : groups.join(':').replace(/(^|:)0(:0)+(:|$)/, '::');
}
const isOfThisComputer = (address: string): boolean => /^127\.|^::1$/.test(address);

interface Socket {
  readonly row: ProgramRow<'ports'>;
  readonly inode: string;
}
export function listenersIn(table: string, protocol: 'tcp' | 'udp'): Socket[] {
  const wanted = protocol === 'tcp' ? LISTENS : UNCONNECTED;
  return table
    .split('\n')
    .slice(1)
    .flatMap((line) => {
      const [, local = '', , state, , , , , , inode = ''] = line.trim().split(/\s+/);
      const [hex = '', portHex = ''] = local.split(':');
      if (state !== wanted || !hex) return [];
      const [address, port] = [addressOf(hex), Number.parseInt(portHex, 16)];
      const reach = isOfThisComputer(address) ? ('this-computer' as const) : ('everybody' as const);
      return { row: { id: `${protocol} ${address} ${port} ${inode}`, protocol, address, port, reach }, inode };
    });
}

/** Who holds which socket, among the person's own processes: of others it may not be read. */
async function holders(signal: AbortSignal): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  const own = readdirSync('/proc').filter(
    (name) => /^\d+$/.test(name) && accountOf(Number(name)) === process.getuid?.(),
  );
  for (let at = 0; at < own.length; at += AT_ONCE) {
    for (const pid of own.slice(at, at + AT_ONCE)) for (const inode of socketsOf(pid)) found.set(inode, nameOf(pid));
    await new Promise((resolve) => setImmediate(resolve));
    signal.throwIfAborted();
  }
  return found;
}
const nameOf = (pid: string): string => short(textOf(`/proc/${pid}/comm`) ?? pid);
function socketsOf(pid: string): string[] {
  try {
    return readdirSync(`/proc/${pid}/fd`).flatMap(
      (fd) => /^socket:\[(\d+)\]$/.exec(readlinkSync(`/proc/${pid}/fd/${fd}`))?.[1] ?? [],
    );
  } catch {
    // It ended meanwhile, or closed one while they were read: what it held is nobody's.
    return [];
  }
}

/** Ports at which something waits for others. */
export class PortsList implements ProgramReading<'ports'> {
  async read(signal: AbortSignal): Promise<ProgramRow<'ports'>[]> {
    const sockets = (['tcp', 'tcp6', 'udp', 'udp6'] as const).flatMap((table) =>
      listenersIn(textOf(`/proc/net/${table}`) ?? '', table.startsWith('tcp') ? 'tcp' : 'udp'),
    );
    const byInode = await holders(signal);
    return sockets.map(({ row, inode }) => {
      const by = byInode.get(inode);
      return by === undefined ? row : { ...row, by };
    });
  }
}
