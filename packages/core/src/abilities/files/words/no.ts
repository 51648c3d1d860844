import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'give-files': 'gi deg filer',
    'fetch-files': 'hente filer fra maskinen din',
  },
  sentences: {
    fileOffered: '{who} vil gi deg {name} ({size})',
    youOffered: 'Du tilbød {name} ({size})',
    fileAccepted: '{who} tar imot {name}',
    youAccepted: 'Du tar imot {name}',
    fileRefused: '{name} ble avvist',
    fileCancelled: '{name} ble avbrutt',
    fileFailed: '{name} kom ikke fram',
    fileArrived: '{name} er fullført',
  },
};
