import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const norwegian: SameKeys<typeof english> = {
  permissions: {
    'give-clipboard': 'legge noe på utklippstavlen din',
    'read-clipboard': 'lese utklippstavlen din',
    'hear-sound': 'høre lyden fra maskinen din',
    'speak-together': 'snakke med deg gjennom maskinen',
    'see-camera': 'se gjennom kameraet ditt',
    'show-own-screen': 'vise deg sin egen skjerm',
    'read-system-report': 'lese en rapport om maskinen din',
    'inspect-programs': 'se hvilke programmer og tjenester som kjører',
    'change-programs': 'stoppe og starte programmer og tjenester',
    'take-prints': 'motta det du skriver ut',
    'run-runbook': 'kjøre forberedte trinn på maskinen din',
    'use-command-line': 'bruke en kommandolinje på maskinen din',
    'raise-rights': 'ha administratorrettigheter på maskinen din',
    'restart-computer': 'starte maskinen din på nytt og komme tilbake',
    'record-session': 'ta opp denne økten',
    'cover-screen': 'dekke skjermen din en stund',
    'block-input': 'sperre musen og tastaturet ditt en stund',
  },
  sentences: {},
};
