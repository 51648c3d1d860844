import { Permission, permissionCatalogue } from './permission.ts';

/** Permissions that the desk asks for together, under one name. The customer may leave any of them out. */
export interface Bundle {
  readonly name: string;
  readonly permissions: readonly Permission[];
}

export const defaultBundles: readonly Bundle[] = [
  { name: 'Look and work', permissions: ['view-screen', 'control-input'] },
  { name: 'Look, work and give files', permissions: ['view-screen', 'control-input', 'give-files'] },
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
      const permissions = list.split('+').map((word) => {
        const permission = Permission.safeParse(word.trim());
        if (!permission.success) throw new Error(`there is no permission “${word.trim()}”`);
        return permission.data;
      });
      for (const permission of permissions) {
        const { isSensitive, needs } = permissionCatalogue[permission];
        if (isSensitive) throw new Error(`“${permission}” is always asked alone, so no bundle can hold it`);
        if (needs && !permissions.includes(needs))
          throw new Error(`“${permission}” needs “${needs}” in “${name}”, too`);
      }
      return { name, permissions };
    });
}
