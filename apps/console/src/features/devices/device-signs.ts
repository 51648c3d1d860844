import type { DeviceView } from '@porch/wire';

/** Beside the word, so that a list is read at a glance; colour is not needed. */
export const deviceSigns: Readonly<Record<DeviceView['state'], string>> = {
  'in-use': '●',
  away: '◐',
  offline: '○',
  ended: '✕',
};
