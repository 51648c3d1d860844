import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'control-input': 'bruke musen og tastaturet ditt',
  },
  sentences: {
    controlStarted: '{who} bruker musen og tastaturet ditt',
    controlStopped: '{who} sluttet å bruke musen og tastaturet ditt ({clicks} klikk, {keys} tastetrykk)',
  },
};
