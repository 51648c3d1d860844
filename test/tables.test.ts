import { allPermissions, permissionLabel, rulesOf, whatIsUndone, type Permission } from '@porch/core';
import { ledger } from '@porch/words/ledger';
import { sealedChannels } from '@porch/wire';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, inject, it } from 'vitest';
import { cellsOf, channelTable, permissionTable, tableIn } from '../scripts/tables.mjs';

const page = (name: string) => readFileSync(join(inject('root'), 'docs', name), 'utf8');

it('the page of permissions says of each what the catalogue says (npm run tables)', () => {
  const shown = cellsOf(tableIn(page('permissions.md'), 'permissions'));
  expect(shown).toEqual(
    cellsOf(
      permissionTable({
        allPermissions,
        rulesOf,
        labelOf: (permission: Permission) => permissionLabel(permission, ledger.en),
        undoneOf: (permission: Permission) => whatIsUndone(permission, ledger.en),
      }),
    ),
  );
  expect(shown).toHaveLength(allPermissions.length + 1);
});

it('the page of the protocol says of each channel what the relay looks up (npm run tables)', () => {
  const shown = cellsOf(tableIn(page('protocol.md'), 'channels'));
  expect(shown).toEqual(cellsOf(channelTable({ sealedChannels })));
  expect(shown).toHaveLength(sealedChannels.length + 1);
});
