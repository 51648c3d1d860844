import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'control-input': 'Ihre Maus und Tastatur benutzen',
  },
  sentences: {
    controlStarted: '{who} benutzt Ihre Maus und Tastatur',
    controlStopped: '{who} benutzt Ihre Maus und Tastatur nicht mehr ({clicks} Klicks, {keys} Tastendrücke)',
  },
};
