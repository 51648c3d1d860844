import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {},
  sentences: {
    wordsSame: 'Du sammenlignet kontrollordene med {who}: de samme',
    wordsDiffer: 'Du sammenlignet kontrollordene med {who}: ikke de samme',
  },
};
