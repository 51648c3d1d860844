import type { english } from './en.ts';
import type { SameKeys } from '../../../ability/same-keys.ts';

export const german: SameKeys<typeof english> = {
  permissions: {
    'give-clipboard': 'etwas in Ihre Zwischenablage legen',
    'read-clipboard': 'Ihre Zwischenablage lesen',
    'hear-sound': 'hören, was Ihr Computer abspielt',
    'speak-together': 'durch den Computer mit Ihnen sprechen',
    'see-camera': 'durch Ihre Kamera sehen',
    'show-own-screen': 'Ihnen den eigenen Bildschirm zeigen',
    'read-system-report': 'einen Bericht über Ihren Computer lesen',
    'inspect-programs': 'sehen, welche Programme und Dienste laufen',
    'change-programs': 'Programme und Dienste beenden und starten',
    'take-prints': 'empfangen, was Sie drucken',
    'run-runbook': 'vorbereitete Schritte auf Ihrem Computer ausführen',
    'use-command-line': 'eine Befehlszeile auf Ihrem Computer benutzen',
    'raise-rights': 'Administratorrechte auf Ihrem Computer haben',
    'restart-computer': 'Ihren Computer neu starten und zurückkommen',
    'record-session': 'diese Sitzung aufzeichnen',
    'cover-screen': 'Ihren Bildschirm für kurze Zeit verdecken',
    'block-input': 'Ihre Maus und Tastatur für kurze Zeit sperren',
  },
  sentences: {},
};
