import { defineShape } from '../../ability/ability-shape.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/**
 * What no release does yet. These are in the catalogue so that desks can rule on them today; each moves into the folder of
 * its ability once that is there.
 */
export const toCome = defineShape({
  name: 'to-come',
  version: 1,
  permissions: {
    'give-clipboard': { label: 'Put onto the clipboard', needs: 'control-input', undone: 'nothing more is put there' },
    'read-clipboard': { label: 'Read the clipboard', needs: 'control-input', undone: 'nothing more is read' },
    'hear-sound': { label: 'Hear the computer', needs: 'view-screen', undone: 'the sound stops' },
    'speak-together': { label: 'Speak together', undone: 'microphones are closed' },
    'see-camera': { label: 'See the camera', isSensitive: true, isNotForMinors: true, undone: 'the camera is closed' },
    'show-own-screen': { label: 'Show my screen', undone: 'the picture goes from their screen' },
    'read-system-report': { label: 'Read a system report', undone: 'what is still being read is not sent' },
    'inspect-programs': {
      label: 'See what programs run',
      needs: 'read-system-report',
      undone: 'the lists are sent no longer',
    },
    'change-programs': {
      label: 'Stop and start programs',
      needs: 'inspect-programs',
      undone: 'nothing more is stopped or started',
    },
    'take-prints': { label: 'Receive their printouts', undone: 'the printer that was added goes' },
    'run-runbook': { label: 'Run runbook actions', undone: 'an action that runs is ended' },
    'use-command-line': { label: 'Use a command line', undone: 'the command line and what it runs are ended' },
    'raise-rights': { label: 'Have administrator rights', isSensitive: true, undone: 'the rights fall back' },
    'restart-computer': { label: 'Restart and return', undone: 'a restart that has not begun does not happen' },
    'record-session': {
      label: 'Record the session',
      needs: 'view-screen',
      isSensitive: true,
      isNotForMinors: true,
      undone: 'the recording ends there and says so',
    },
    'cover-screen': {
      label: 'Cover the screen',
      needs: 'control-input',
      isSensitive: true,
      undone: 'the cover is lifted',
    },
    'block-input': {
      label: 'Block their mouse and keyboard',
      needs: 'control-input',
      isSensitive: true,
      undone: 'their mouse and keyboard work again',
    },
  },
  events: {},
  initial: {},
  evolve: {},
  tell: {},
  words: { en: english, no: norwegian, de: german },
  inStory: [],
});
