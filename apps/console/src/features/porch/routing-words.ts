import { isRoutingWord, type RoutingReason } from '@porch/core';
import { w } from '../../words/index.ts';

/** Why somebody is, or is not, for this technician. */
export function routingInWords({ word, name = '', count = 0 }: RoutingReason): string {
  const { routing } = w.value;
  if (!isRoutingWord(word)) return routing.unknown;
  const said: string | ((p: { name: string; count: number }) => string) = routing[word];
  return typeof said === 'string' ? said : said({ name, count });
}
