import type { WebSocket } from 'ws';

/** What all sockets together may hold unsent. Beyond it whoever reads least is cut, and comes back by itself. */
export const MAX_UNSENT_TOGETHER_BYTES = 96 * 1024 * 1024;
const LOOK_MS = 500;

/** Watches what deaf readers cost; hands back its stop. */
export function boundDebts(sockets: () => Iterable<WebSocket>, onCut: (bytes: number) => void): () => void {
  const timer = setInterval(() => {
    const debtors = [...sockets()].filter((s) => s.bufferedAmount > 0);
    let together = debtors.reduce((sum, s) => sum + s.bufferedAmount, 0);
    if (together <= MAX_UNSENT_TOGETHER_BYTES) return;
    for (const socket of debtors.sort((a, b) => b.bufferedAmount - a.bufferedAmount)) {
      if (together <= MAX_UNSENT_TOGETHER_BYTES) return;
      together -= socket.bufferedAmount;
      onCut(socket.bufferedAmount);
      socket.terminate();
    }
  }, LOOK_MS);
  return () => clearInterval(timer);
}
