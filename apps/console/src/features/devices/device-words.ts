import type { DeviceView } from '@porch/wire';

/* Word and sign say where a device stands; colour is not needed. */
export const deviceStates: Record<DeviceView['state'], { readonly sign: string; readonly word: string }> = {
  'in-use': { sign: '●', word: 'on, somebody is there' },
  away: { sign: '◐', word: 'on, nobody is there' },
  offline: { sign: '○', word: 'off' },
  ended: { sign: '✕', word: 'may not be reached' },
};

export const endedWords: Record<NonNullable<DeviceView['ended']>['how'], string> = {
  'at-the-device': 'ended at the device',
  'by-the-desk': 'ended by the desk',
  'ran-out': 'ran out',
};
