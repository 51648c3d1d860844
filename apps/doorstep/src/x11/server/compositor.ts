import type { XConnection } from './connection.ts';

/** Whether another program puts the screen together from the windows (EWMH's selection for it). */
export async function hasCompositor(x: XConnection): Promise<boolean> {
  const selection = await x.atom('_NET_WM_CM_S0');
  return (await x.ask<number>((cb) => x.client.GetSelectionOwner(selection, cb))) !== 0;
}
