import { allPermissions, rulesOf } from '@porch/core';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, inject, it } from 'vitest';

it('the page of permissions says of each what the catalogue says', () => {
  const page = readFileSync(join(inject('root'), 'docs', 'permissions.md'), 'utf8');
  const rows = new Map(
    page
      .split('\n')
      .filter((line) => line.startsWith('| `'))
      .map((line) => line.split('|').map((cell) => cell.trim()))
      .map((cells) => [cells[1] ?? '', cells.slice(2, -1)]),
  );
  expect([...rows.keys()]).toEqual(allPermissions.map((p) => `\`${p}\``));
  for (const permission of allPermissions) {
    const { label, needs, isSensitive, worksInBrowser, canStand, undone } = rulesOf(permission);
    expect(rows.get(`\`${permission}\``)).toEqual([
      label,
      needs ? `\`${needs}\`` : '',
      isSensitive ? 'alone' : '',
      worksInBrowser ? 'yes' : '',
      canStand ? 'yes' : '',
      undone,
    ]);
  }
});
