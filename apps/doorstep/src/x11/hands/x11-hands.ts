import type { HandsPort } from '@porch/host';
import type { XTest } from 'x11';
import type { XConnection } from '../server/connection.ts';
import { Injector, type PressGuard } from './injector.ts';

/** Mouse and keyboard of this desktop, as if somebody sat there. */
export class X11Hands implements HandsPort {
  readonly #x: XConnection;
  readonly #injector: Injector;

  private constructor(x: XConnection, injector: Injector) {
    this.#x = x;
    this.#injector = injector;
  }
  static async open(x: XConnection, xtest: XTest, guard: PressGuard): Promise<X11Hands> {
    return new X11Hands(x, await Injector.create(x, xtest, guard));
  }

  movePointer = (x: number, y: number): void => this.#injector.move(x, y);
  button = (button: 'left' | 'middle' | 'right', isDown: boolean): void => this.#injector.button(button, isDown);
  wheel = (stepsX: number, stepsY: number): void => this.#injector.wheel(stepsX, stepsY);
  key = (key: string, isDown: boolean, may: () => boolean): Promise<void> => this.#injector.key(key, isDown, may);
  type = (text: string, may: () => boolean): Promise<number> => this.#injector.type(text, may);
  answers = (): Promise<void> => this.#x.flush();
  releaseAll = (): void => this.#injector.releaseAll();
  close = (): Promise<void> => this.#injector.close();
}
