import type { Monitor } from '@porch/host';
import type { XConnection } from './connection.ts';

/** A request of RandR 1.5 that the client library lacks. */
const GET_MONITORS = 42;

/** From left to right, then from top to bottom; the whole screen when the server names none. */
export async function readMonitors(x: XConnection, opcode: number): Promise<Monitor[]> {
  const size = await x.size();
  const rows = await x.ask<{ atom: number; rect: Monitor['rect'] }[]>((callback) => {
    const { client } = x;
    const request = Buffer.alloc(12);
    request[0] = opcode;
    request[1] = GET_MONITORS;
    request.writeUInt16LE(3, 2);
    request.writeUInt32LE(x.root, 4);
    request[8] = 1;
    client.seq_num++;
    client.pack_stream.put(request);
    client.replies[client.seq_num] = [parseMonitors, callback];
    client.pack_stream.submit(true);
  });
  const seen = rows.filter(({ rect }) => rect.width > 0 && rect.height > 0);
  const named = await Promise.all(
    seen.map(async ({ atom, rect }) => ({ name: await x.ask<string>((cb) => x.client.GetAtomName(atom, cb)), rect })),
  );
  if (!named.length) return [{ name: 'Screen', rect: { x: 0, y: 0, width: size.width, height: size.height } }];
  return named.sort((a, b) => a.rect.x - b.rect.x || a.rect.y - b.rect.y || a.name.localeCompare(b.name));
}

function parseMonitors(reply: Buffer): { atom: number; rect: Monitor['rect'] }[] {
  const count = reply.readUInt32LE(4);
  const monitors: { atom: number; rect: Monitor['rect'] }[] = [];
  let at = 24;
  for (let i = 0; i < count; i++) {
    const outputs = reply.readUInt16LE(at + 6);
    monitors.push({
      atom: reply.readUInt32LE(at),
      rect: {
        x: reply.readInt16LE(at + 8),
        y: reply.readInt16LE(at + 10),
        width: reply.readUInt16LE(at + 12),
        height: reply.readUInt16LE(at + 14),
      },
    });
    at += 24 + 4 * outputs;
  }
  return monitors;
}
