import { readPermission } from './asking.ts';
import { MAX_ASKED_TOGETHER, rulesOf, type Permission } from './permission.ts';

/** Permissions that the desk asks for together, under one name. The customer may leave any of them out. */
export interface Bundle {
  readonly name: string;
  readonly permissions: readonly Permission[];
  /** One the product comes with: shown under its name in the reader's language. */
  readonly own?: 'lookAndWork' | 'lookWorkAndGive';
}

export const defaultBundles: readonly Bundle[] = [
  { name: 'Look and work', permissions: ['view-screen', 'control-input'], own: 'lookAndWork' },
  {
    name: 'Look, work and give files',
    permissions: ['view-screen', 'control-input', 'give-files'],
    own: 'lookWorkAndGive',
  },
];

/**
 * Reads "Look and work = view-screen + control-input; …". Throws with what is wrong: an unknown permission, a sensitive
 * one, which is always asked alone, or one without what it needs.
 */
export function readBundles(text: string): readonly Bundle[] {
  return text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => {
      const [name = '', list = ''] = part.split('=').map((side) => side.trim());
      if (!name || !list) throw new Error(`“${part}” is not like “Look and work = view-screen + control-input”`);
      const permissions = list.split('+').map(readPermission);
      if (permissions.length > MAX_ASKED_TOGETHER)
        throw new Error(`“${name}” holds more than ${MAX_ASKED_TOGETHER} permissions`);
      for (const permission of permissions) {
        const { isSensitive, needs } = rulesOf(permission);
        if (isSensitive) throw new Error(`“${permission}” is always asked alone, so no bundle can hold it`);
        if (needs && !permissions.includes(needs))
          throw new Error(`“${permission}” needs “${needs}” in “${name}”, too`);
      }
      return { name, permissions };
    });
}
