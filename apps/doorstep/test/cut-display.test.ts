import { PersonAtDesk, startDesktop } from '@porch/demo';
import { House, until } from '@porch/testkit';
import { connect, createServer, type Server, type Socket } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Injector } from '../src/x11/hands/injector.ts';
import { releasePressed } from '../src/x11/hands/left-behind.ts';
import { XConnection } from '../src/x11/server/connection.ts';
import { findExtensions } from '../src/x11/server/extensions.ts';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

/** Stands between a program and its X server, and cuts the line after so many bytes of the program's. */
class CuttingDisplay {
  readonly display = `:${String(20_000 + (process.pid % 10_000))}`;
  readonly #server: Server;
  /** Bytes the program has sent so far. */
  bytes = 0;
  cutAtBytes = Infinity;
  isCut = false;
  /** The server has read everything it was given, and closed its end. */
  isOver = false;

  constructor(realDisplay: string) {
    this.#server = createServer((program) => {
      const real = connect(`/tmp/.X11-unix/X${realDisplay.replace(/^.*:/, '')}`);
      [this.bytes, this.cutAtBytes] = [0, Infinity];
      this.isCut = this.isOver = false;
      for (const end of [program, real]) end.on('error', () => undefined);
      real.on('data', (data) => program.write(data));
      program.on('data', (data: Buffer) => this.#pass(data, program, real));
      program.on('close', () => real.end());
      real.on('close', () => {
        this.isOver = true;
        program.destroy();
      });
    }).listen(`/tmp/.X11-unix/X${this.display.slice(1)}`);
  }

  #pass(data: Buffer, program: Socket, real: Socket): void {
    if (this.isCut) return;
    const left = this.cutAtBytes - this.bytes;
    this.bytes += Math.min(left, data.length);
    if (data.length < left) real.write(data);
    else {
      this.isCut = true;
      real.end(data.subarray(0, left));
      program.destroy();
    }
  }

  close(): void {
    this.#server.close();
  }
}

describe('a Doorstep whose line to the X server is cut', () => {
  it('leaves nothing pressed that does not stand on the root window, whichever byte was its last', async () => {
    const desktop = await startDesktop(house.processes, {
      name: 'a cut',
      home: join(house.folder, 'home-cut'),
      programs: 'none',
    });
    const person = await PersonAtDesk.at(desktop.display);
    const after = await XConnection.open(desktop.display, () => undefined);
    const { xtest } = await findExtensions(after);
    if (!xtest) throw new Error('this X server has no XTEST');
    const between = new CuttingDisplay(desktop.display);
    /** Presses and lets go, cut after so many bytes; tells how many bytes there would have been. */
    const pressAndCut = async (cutAtBytes: number): Promise<number> => {
      const x = await XConnection.open(between.display, () => undefined);
      const found = await findExtensions(x);
      const injector = await Injector.create(x, found.xtest ?? xtest, { isThere: true, report: () => undefined });
      await x.flush();
      const before = between.bytes;
      between.cutAtBytes = before + cutAtBytes;
      for (const isDown of [true, false, true, false]) await injector.key('Shift', isDown, () => true);
      injector.wheel(0, 1);
      if (cutAtBytes < Infinity) await until('the server to have read it', () => between.isOver);
      else await x.flush();
      const sent = between.bytes - before;
      x.close();
      return sent;
    };
    const whole = await pressAndCut(Infinity);
    const leftDown: number[] = [];
    let everDown = 0;
    // Every request is of whole words of four bytes.
    for (let cut = 4; cut <= whole - 8; cut += 4) {
      await pressAndCut(cut);
      if ((await person.keysDown()).length > 0) everDown++;
      await releasePressed(after, xtest);
      if ((await person.keysDown()).length > 0) leftDown.push(cut);
    }
    expect(everDown).toBeGreaterThan(0);
    expect(leftDown).toEqual([]);
    between.close();
    after.close();
  });
});
