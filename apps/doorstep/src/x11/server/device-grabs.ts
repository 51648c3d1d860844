import type { XInput } from 'x11';
import type { XConnection } from './connection.ts';

/* Grabs of single devices: XInput 2.2, X Input Extension protocol, XIGrabDevice and XIUngrabDevice. */

const GRAB_DEVICE = 51;
const UNGRAB_DEVICE = 52;
const ASYNCHRONOUS = 1;
const statuses = ['success', 'another program has it', 'invalid time', 'not viewable', 'frozen'];

/**
 * What this device does comes to us alone from now on: the server takes it off the person's pointer or keyboard, and gives
 * it back the moment our connection ends, however it ends. Throws when another program has it.
 */
export async function grabDevice(x: XConnection, xinput: XInput, deviceId: number, mask: number): Promise<void> {
  const request = Buffer.alloc(28);
  request[0] = xinput.majorOpcode;
  request[1] = GRAB_DEVICE;
  request.writeUInt16LE(request.length / 4, 2);
  request.writeUInt32LE(x.root, 4);
  request.writeUInt16LE(deviceId, 16);
  request[18] = ASYNCHRONOUS;
  request[19] = ASYNCHRONOUS;
  request.writeUInt16LE(1, 22);
  request.writeUInt32LE(mask, 24);
  const status = await x.ask<number>((callback) => {
    const { client } = x;
    client.seq_num++;
    client.pack_stream.put(request);
    client.replies[client.seq_num] = [(reply) => reply[0] ?? 0, callback];
    client.pack_stream.submit(true);
  });
  if (status !== 0) throw new Error(`a device cannot be taken: ${statuses[status] ?? status}`);
}

export function ungrabDevice(x: XConnection, xinput: XInput, deviceId: number): void {
  const request = Buffer.alloc(12);
  request[0] = xinput.majorOpcode;
  request[1] = UNGRAB_DEVICE;
  request.writeUInt16LE(request.length / 4, 2);
  request.writeUInt16LE(deviceId, 8);
  x.client.seq_num++;
  x.client.pack_stream.put(request);
  x.client.pack_stream.submit();
}
