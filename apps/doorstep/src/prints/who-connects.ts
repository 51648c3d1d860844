import { readFileSync } from 'node:fs';
import type { Socket } from 'node:net';

const HEX = 16;
const UID_FIELD = 7;
/** 127.0.0.1 as the kernel writes it there: the bytes of the machine's own order. */
const LOOPBACK = '0100007F';
const hexPort = (port: number): string => port.toString(HEX).toUpperCase().padStart(4, '0');

/** The account whose program is at the other end of a connection on loopback (proc(5), `/proc/net/tcp`); undefined when nobody can say. */
export function accountAtTheOtherEnd({
  localPort,
  remotePort,
}: Pick<Socket, 'localPort' | 'remotePort'>): number | undefined {
  if (localPort === undefined || remotePort === undefined) return undefined;
  const [here, there] = [`${LOOPBACK}:${hexPort(localPort)}`, `${LOOPBACK}:${hexPort(remotePort)}`];
  for (const line of readFileSync('/proc/net/tcp', 'latin1').split('\n').slice(1)) {
    const fields = line.trim().split(/\s+/);
    if (fields[1] === there && fields[2] === here) return Number(fields[UID_FIELD]);
  }
  return undefined;
}
