import type { loadExtensions, XConnection } from '@porch/doorstep';

type XInput = Awaited<ReturnType<typeof loadExtensions>>['xinput'];

/* A hostile program's own mouse and keyboard: X Input Extension protocol 2.3, XIChangeHierarchy and XISetClientPointer. */
const [CHANGE_HIERARCHY, SET_CLIENT_POINTER, ADD_MASTER] = [43, 44, 1];

function send(x: XConnection, request: Buffer): void {
  const { client } = x;
  client.seq_num++;
  client.pack_stream.put(request);
  client.pack_stream.submit();
}

/** From then on what this connection fakes comes from devices that did not exist before. */
export async function makeMouseAndKeyboard(x: XConnection, xinput: XInput, name: string): Promise<void> {
  const nameBytes = Math.ceil(name.length / 4) * 4;
  const add = Buffer.alloc(16 + nameBytes);
  add[0] = xinput.majorOpcode;
  add[1] = CHANGE_HIERARCHY;
  add.writeUInt16LE(add.length / 4, 2);
  add[4] = 1;
  add.writeUInt16LE(ADD_MASTER, 8);
  add.writeUInt16LE((8 + nameBytes) / 4, 10);
  add.writeUInt16LE(name.length, 12);
  [add[14], add[15]] = [1, 1];
  add.write(name, 16, 'latin1');
  send(x, add);
  const devices = await x.ask<{ deviceId: number; name: string }[]>((cb) => xinput.XIQueryDevice(0, cb));
  const pointer = devices.find((device) => device.name === `${name} pointer`);
  if (!pointer) throw new Error(`no device was made: ${devices.map((device) => device.name).join()}`);
  const set = Buffer.alloc(12);
  set[0] = xinput.majorOpcode;
  set[1] = SET_CLIENT_POINTER;
  set.writeUInt16LE(set.length / 4, 2);
  set.writeUInt16LE(pointer.deviceId, 8);
  send(x, set);
  await x.flush();
}
