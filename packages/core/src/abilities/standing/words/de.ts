import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'keep-device': 'später auf diesen Computer zugreifen',
  },
  sentences: {},
};
