import type { PartOf } from '@porch/core';
import { readdirSync } from 'node:fs';
import { connect } from 'node:net';
import os from 'node:os';
import { short, textOf } from './text-of.ts';

const REACH_MS = 3_000;
const MAX_INTERFACES = 16;
const MAX_ADDRESSES = 6;

/** The way out (proc(5), `net/route`: addresses as hexadecimal numbers of this machine's byte order). */
export function gatewayIn(route: string): string | undefined {
  for (const line of route.split('\n').slice(1)) {
    const [, destination, gateway] = line.split('\t');
    if (destination !== '00000000' || gateway === undefined || !/^[0-9A-F]{8}$/i.test(gateway)) continue;
    return gateway
      .match(/../g)
      ?.reverse()
      .map((byte) => Number.parseInt(byte, 16))
      .join('.');
  }
  return undefined;
}
/** resolv.conf(5). */
export const nameServersIn = (resolv: string): string[] =>
  [...resolv.matchAll(/^\s*nameserver\s+(\S+)/gm)].slice(0, MAX_ADDRESSES).map(([, server = '']) => short(server));

function interfacesHere(): PartOf<'network'>['interfaces'] {
  const known = os.networkInterfaces();
  let names: string[];
  try {
    names = readdirSync('/sys/class/net');
  } catch {
    names = Object.keys(known);
  }
  return names
    .filter((name) => name !== 'lo')
    .slice(0, MAX_INTERFACES)
    .map((name) => {
      const addresses = (known[name] ?? []).map(({ address }) => short(address)).slice(0, MAX_ADDRESSES);
      return {
        name: short(name),
        isUp: textOf(`/sys/class/net/${name}/operstate`)?.trim() === 'up' || addresses.length > 0,
        addresses,
      };
    });
}

/** Whether the desk answers, by a connection of its own. */
function reach(address: URL, signal: AbortSignal): Promise<PartOf<'network'>['desk']> {
  const begunAt = performance.now();
  const port = Number(address.port || (address.protocol === 'https:' ? 443 : 80));
  return new Promise((resolve) => {
    const socket = connect({ host: address.hostname.replace(/^\[|\]$/g, ''), port, timeout: REACH_MS, signal });
    const end = (isReached: boolean) => {
      socket.destroy();
      resolve(isReached ? { isReached, ms: Math.round(performance.now() - begunAt) } : { isReached });
    };
    socket.once('connect', () => end(true));
    socket.once('timeout', () => end(false));
    socket.once('error', () => end(false));
  });
}

export async function readNetwork(address: URL, signal: AbortSignal): Promise<PartOf<'network'>> {
  const gateway = gatewayIn(textOf('/proc/net/route') ?? '');
  return {
    interfaces: interfacesHere(),
    ...(gateway === undefined ? {} : { gateway }),
    nameServers: nameServersIn(textOf('/etc/resolv.conf') ?? ''),
    desk: await reach(address, signal),
  };
}
