import type { allPermissions, Permission, rulesOf } from '@porch/core';
import type { sealedChannels } from '@porch/wire';

export function permissionTable(from: {
  readonly allPermissions: typeof allPermissions;
  readonly rulesOf: typeof rulesOf;
  readonly labelOf: (permission: Permission) => string;
  readonly undoneOf: (permission: Permission) => string;
}): string[];
export function channelTable(from: { readonly sealedChannels: typeof sealedChannels }): string[];
export function cellsOf(lines: readonly string[]): string[][];
export function tableIn(page: string, name: string): string[];
