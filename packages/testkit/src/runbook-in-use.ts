import type { RestClient } from '@porch/client';
import type { RunbookAction } from '@porch/core';
import type { z } from 'zod';
import type { House } from './house.ts';

export type ActionToWrite = Partial<z.input<typeof RunbookAction>> & { readonly body: string };
let count = 0;

/** An action that Rune wrote, Pim reviewed and Odalys approved. */
export async function runbookInUse(
  house: House,
): Promise<(action: ActionToWrite) => ReturnType<RestClient['approveRunbookAction']>> {
  const [rune, pim, odalys] = await Promise.all(
    ['Rune Takahashi', 'Pim Aldersey', 'Odalys Brandt'].map((name) => house.signedIn(name)),
  );
  return async (more) => {
    const action = {
      ...{ name: `action-${++count}`, title: `Action ${count}`, kind: 'script' as const },
      ...(more.kind && more.kind !== 'script' ? {} : { interpreter: 'sh' as const }),
      ...more,
    };
    const draft = await rune?.writeRunbookAction({ action, scope: 'desk' });
    if (!draft || !pim || !odalys) throw new Error('nobody wrote it');
    await pim.reviewRunbookAction(draft.id);
    return odalys.approveRunbookAction(draft.id);
  };
}
