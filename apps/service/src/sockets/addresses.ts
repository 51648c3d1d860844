import { isIP } from 'node:net';

/**
 * Whose an address is, for counting: an IPv4 address as it is, an IPv6 address by its first 64 bits, since whoever has
 * one of those has all of them (RFC 6177). IPv4 within IPv6 counts as IPv4.
 */
export function addressKey(address: string): string {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, '').replace(/%.*$/, '');
  if (isIP(plain) !== 6) return plain;
  const [left = '', right] = plain.toLowerCase().split('::');
  const head = left ? left.split(':') : [];
  const tail = right ? right.split(':') : [];
  const middle = right === undefined ? [] : new Array<string>(Math.max(0, 8 - head.length - tail.length)).fill('0');
  const groups = [...head, ...middle, ...tail].slice(0, 4).map((group) => group.replace(/^0+(?=.)/, ''));
  return `${groups.join(':')}::/64`;
}
