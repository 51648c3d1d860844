import { z } from 'zod';

/** The catalogue: one thing a technician may do, with its rules. */
export const permissionCatalogue = {
  'view-screen': {
    label: 'See the screen',
    needs: undefined,
    isSensitive: false,
    worksInBrowser: true,
  },
  'control-input': {
    label: 'Work mouse and keyboard',
    needs: 'view-screen',
    isSensitive: false,
    worksInBrowser: false,
  },
  'give-files': {
    label: 'Give files',
    needs: undefined,
    isSensitive: false,
    worksInBrowser: false,
  },
  'fetch-files': {
    label: 'Fetch files',
    needs: undefined,
    // A fetched file leaves the computer for good, so it is always asked alone.
    isSensitive: true,
    worksInBrowser: false,
  },
} as const satisfies Record<
  string,
  {
    label: string;
    needs: string | undefined;
    isSensitive: boolean;
    /** Whether the customer's page can hold it, or only Doorstep. */
    worksInBrowser: boolean;
  }
>;

export const Permission = z.enum(['view-screen', 'control-input', 'give-files', 'fetch-files']);
export type Permission = z.infer<typeof Permission>;
export const allPermissions: readonly Permission[] = Permission.options;

/** Those permissions that fall when this one falls. */
export function dependants(permission: Permission): Permission[] {
  return allPermissions.filter((other) => permissionCatalogue[other].needs === permission);
}

/** Where one permission stands for one technician's key: one value, one moment. */
export type PermissionStanding =
  | { readonly name: 'notAsked' }
  | { readonly name: 'waiting'; readonly askId: string; readonly expiresAtMs: number }
  | { readonly name: 'allowed'; readonly grantNumber: number; readonly endsAtMs: number }
  | { readonly name: 'saidNo'; readonly atMs: number }
  | { readonly name: 'lapsed'; readonly atMs: number }
  | { readonly name: 'takenBack'; readonly atMs: number };

/** A granted permission counts only until its end. */
export function isEffective(standing: PermissionStanding | undefined, nowMs: number): boolean {
  return standing?.name === 'allowed' && nowMs < standing.endsAtMs;
}
