import { rmSync } from 'node:fs';
import { connect, createServer, type Server, type Socket } from 'node:net';

/** What is sent to the socket at `path` reaches a port of this machine. */
export async function openGate(path: string, port: number): Promise<Server> {
  rmSync(path, { force: true });
  const gate = createServer((socket) => pass(socket, connect({ port, host: '127.0.0.1', noDelay: true })));
  await new Promise<void>((resolve, reject) => gate.once('error', reject).listen(path, resolve));
  return gate;
}

/** Both ways, until either ends. */
export function pass(a: Socket, b: Socket): void {
  a.pipe(b).pipe(a);
  a.on('error', () => b.destroy());
  b.on('error', () => a.destroy());
}
