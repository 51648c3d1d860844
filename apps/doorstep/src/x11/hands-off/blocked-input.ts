import { setTimeout as sleep } from 'node:timers/promises';
import type { XEvent, XInput } from 'x11';
import { grabDevice, ungrabDevice } from '../server/device-grabs.ts';
import type { XConnection } from '../server/connection.ts';
import { isKeyboard, realDevices } from '../server/input-events.ts';
import { LiftingKeys } from './lifting-keys.ts';

/** A key that is held while its device is taken would stay down for everybody, so it is waited until nothing is. */
const LET_GO_MS = 5_000;
const LOOK_MS = 20;
/** Bits of the five buttons in the mask of QueryPointer. */
const ALL_BUTTONS = 0x1f00;

/** Takes the person's own mouse and keyboard away; what presses through XTEST goes on. Undone by the server when we end. */
export class BlockedInput {
  readonly #x: XConnection;
  readonly #xinput: XInput;
  readonly #keys: LiftingKeys;
  readonly #onLifted: (by: 'key' | 'stop') => void;
  readonly #onTrouble: (why: unknown) => void;
  readonly #taken = new Set<number>();

  private constructor(
    x: XConnection,
    xinput: XInput,
    keys: LiftingKeys,
    on: { lifted(by: 'key' | 'stop'): void; trouble(why: unknown): void },
  ) {
    this.#x = x;
    this.#xinput = xinput;
    this.#keys = keys;
    this.#onLifted = on.lifted;
    this.#onTrouble = on.trouble;
  }

  /** Resolves once nothing that the person presses reaches any program. Throws when that cannot be. */
  static async begin(
    x: XConnection,
    xinput: XInput,
    on: { lifted(by: 'key' | 'stop'): void; trouble(why: unknown): void },
  ): Promise<void> {
    if (!(await realDevices(x, xinput)).some(isKeyboard))
      throw new Error('there is no keyboard here that could end it');
    const blocked = new BlockedInput(x, xinput, await LiftingKeys.read(x), on);
    x.client.on('event', (event) => blocked.#follow(event));
    xinput.XISelectEvents(x.root, [{ deviceId: 0, mask: xinput.EventMask['HierarchyChanged'] ?? 0 }]);
    await blocked.#takeOnceLetGo();
  }

  async #takeOnceLetGo(): Promise<void> {
    const untilMs = performance.now() + LET_GO_MS;
    do {
      if (!(await this.#isAnythingHeld())) {
        await this.#takeAll();
        // Pressed in between: it would be held for as long as we have its device.
        if (!(await this.#isAnythingHeld())) return;
        this.#giveBack();
      }
      await sleep(LOOK_MS);
    } while (performance.now() < untilMs);
    throw new Error('a key or a button is held down');
  }

  async #isAnythingHeld(): Promise<boolean> {
    const { client, root } = this.#x;
    const keys = await this.#x.ask<Buffer>((cb) => client.QueryKeymap(cb));
    const { keyMask } = await this.#x.ask<{ keyMask: number }>((cb) => client.QueryPointer(root, cb));
    return [...keys].some((bits) => bits !== 0) || (keyMask & ALL_BUTTONS) !== 0;
  }

  /** One that is plugged in meanwhile, too. */
  async #takeAll(): Promise<void> {
    const { KeyPress = 0, KeyRelease = 0, ButtonPress = 0, ButtonRelease = 0, Motion = 0 } = this.#xinput.EventMask;
    for (const { deviceId } of await realDevices(this.#x, this.#xinput)) {
      if (this.#taken.has(deviceId)) continue;
      const mask = KeyPress | KeyRelease | ButtonPress | ButtonRelease | Motion;
      await grabDevice(this.#x, this.#xinput, deviceId, mask);
      this.#taken.add(deviceId);
    }
  }
  #giveBack(): void {
    for (const deviceId of this.#taken) ungrabDevice(this.#x, this.#xinput, deviceId);
    this.#taken.clear();
  }

  #follow(event: XEvent): void {
    if (event.name === 'XIHierarchyChanged') {
      // What takes the first ones waits for its own moment.
      if (this.#taken.size) this.#takeAll().catch(this.#onTrouble);
      return;
    }
    const keycode = event.detail ?? 0;
    if (event.name === 'XIKeyRelease') this.#keys.release(keycode);
    if (event.name !== 'XIKeyPress') return;
    const by = this.#keys.press(keycode);
    if (by) this.#onLifted(by);
  }
}
