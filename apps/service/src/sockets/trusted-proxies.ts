import proxyAddr from '@fastify/proxy-addr';

/** Whether the hop at this place, counted from us, is a proxy of ours that tells the truth about who is before it. */
export type TrustedProxies = (address: string, hop: number) => boolean;

/**
 * Reads which proxies are trusted: `no`, how many stand in front, or their addresses or networks, with commas between.
 * Never "all": then whoever connects directly could say to be anybody. Throws with what is wrong.
 */
export function readTrustedProxies(text: string): TrustedProxies {
  const words = text.trim();
  if (words === 'no' || words === '') return () => false;
  if (/^(yes|all|true|\*)$/i.test(words))
    throw new Error(
      'say which proxies: how many stand in front, or their addresses, such as “1” or “10.0.0.5, 10.0.1.0/24”',
    );
  if (/^\d+$/.test(words)) {
    const hops = Number(words);
    return (_address, hop) => hop < hops;
  }
  return proxyAddr.compile(words.split(',').map((part) => part.trim()));
}
