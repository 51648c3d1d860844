import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'give-files': 'Ihnen Dateien geben',
    'fetch-files': 'Dateien von Ihrem Computer holen',
  },
  sentences: {
    fileOffered: '{who} will Ihnen {name} geben ({size})',
    youOffered: 'Sie haben {name} angeboten ({size})',
    fileAccepted: '{who} nimmt {name} an',
    youAccepted: 'Sie nehmen {name} an',
    fileRefused: '{name} wurde abgelehnt',
    fileCancelled: '{name} wurde abgebrochen',
    fileFailed: '{name} kam nicht an',
    fileArrived: '{name} ist vollständig',
  },
};
