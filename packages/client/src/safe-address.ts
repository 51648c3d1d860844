/** Encryption on the way is not left to whoever wrote the address down. */
export class UnsafeAddress extends Error {
  override readonly name = 'UnsafeAddress';
}

const loopback = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/;

/**
 * The same address, when what goes there is encrypted or does not leave this machine. Throws UnsafeAddress for anything else:
 * a link, a file's name, or a service that hands out where to connect may say `http`.
 */
export function safeAddress(address: string): string {
  const url = URL.canParse(address) ? new URL(address) : undefined;
  if (!url || !/^(https?|wss?):$/.test(url.protocol))
    throw new UnsafeAddress(`“${address}” is no address of a service`);
  if (!/^(https|wss):$/.test(url.protocol) && !loopback.test(url.hostname))
    throw new UnsafeAddress(`the address of the service has to begin with https: (it is ${url.origin})`);
  return address;
}
