import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'keep-device': 'koble seg til denne maskinen senere',
  },
  sentences: {},
};
