import { XConnection, loadExtensions, READY_PROPERTY, WORDS_PROPERTY } from '@porch/doorstep';
import { findWindow, READY_MS } from './x-windows.ts';

/** Where X keyboards have it. */
const LEFT_SHIFT = 50;

interface Point {
  readonly x: number;
  readonly y: number;
}
export interface QuestionPlaces {
  readonly window: number;
  /** Presses count: whoever sees it had the time to read. */
  readonly isReady: boolean;
  /** What it says, line by line. */
  readonly text: string;
  readonly yes: Point;
  readonly no: Point;
  /** The third way to go, where there is one. */
  readonly more: Point;
  /** The i-th of so many that can be ticked. */
  choice(i: number, of: number, hasMore: boolean, isTyped?: boolean): Point;
}

/** A person's own mouse and keyboard: events come from the X server's real devices, as a hand's would. */
export class PersonAtDesk {
  readonly #x: XConnection;
  readonly #xtestOpcode: number;
  readonly #firstXiEvent: number;
  /** The window of the question that was answered last. */
  #answered: number | undefined;
  readonly #mouse: number;
  readonly #keyboard: number;
  #isGone = false;
  readonly #moveTo: (x: number, y: number) => void;

  private constructor(
    x: XConnection,
    xtestOpcode: number,
    firstXiEvent: number,
    devices: { mouse: number; keyboard: number },
    moveTo: (x: number, y: number) => void,
  ) {
    this.#x = x;
    this.#xtestOpcode = xtestOpcode;
    this.#firstXiEvent = firstXiEvent;
    this.#mouse = devices.mouse;
    this.#keyboard = devices.keyboard;
    this.#moveTo = moveTo;
    x.onGone(() => (this.#isGone = true));
  }

  static async at(display: string): Promise<PersonAtDesk> {
    const x = await XConnection.open(display, () => undefined);
    const { xtest, xinput } = await loadExtensions(x);
    const { firstEvent } = await x.ask<{ firstEvent: number }>((cb) => x.client.QueryExtension('XInputExtension', cb));
    const devices = await x.ask<{ deviceId: number; name: string }[]>((cb) => xinput.XIQueryDevice(0, cb));
    const find = (name: string) => devices.find((d) => d.name === name)?.deviceId ?? 0;
    return new PersonAtDesk(
      x,
      xtest.majorOpcode,
      firstEvent,
      { mouse: find('Xvfb mouse'), keyboard: find('Xvfb keyboard') },
      (px, py) => xtest.FakeInput(6, 0, 0, x.root, px, py),
    );
  }

  async click(x: number, y: number): Promise<void> {
    this.#moveTo(x, y);
    await this.#x.flush();
    this.#device(3, 1, this.#mouse);
    this.#device(4, 1, this.#mouse);
    await this.#x.flush();
  }

  /** Several keys at once, let go sooner than a busy computer looks. */
  async chord(keycodes: readonly number[]): Promise<void> {
    for (const code of keycodes) this.#device(1, code, this.#keyboard);
    for (const code of [...keycodes].reverse()) this.#device(2, code, this.#keyboard);
    await this.#x.flush();
  }

  async holdKey(keycode: number, isDown: boolean): Promise<void> {
    this.#device(isDown ? 1 : 2, keycode, this.#keyboard);
    await this.#x.flush();
  }

  async tapKey(keycode: number): Promise<void> {
    this.#device(1, keycode, this.#keyboard);
    this.#device(2, keycode, this.#keyboard);
    await this.#x.flush();
  }

  /** Types what has a key of its own on this keyboard, with Shift where it takes that. Throws for any other character. */
  async type(text: string): Promise<void> {
    const { min_keycode: first, max_keycode: last } = this.#x.client.display;
    const map = await this.#x.ask<number[][]>((cb) => this.#x.client.GetKeyboardMapping(first, last - first + 1, cb));
    for (const character of text) {
      const keysym = character.codePointAt(0) ?? 0;
      const level = [0, 1].find((one) => map.some((columns) => columns[one] === keysym));
      if (level === undefined) throw new Error('there is no such key on this keyboard');
      const keycode = first + map.findIndex((columns) => columns[level] === keysym);
      if (level) await this.holdKey(LEFT_SHIFT, true);
      await this.tapKey(keycode);
      if (level) await this.holdKey(LEFT_SHIFT, false);
    }
  }

  /** The question on the screen, if there is one: where its buttons and what can be ticked are. */
  async question(): Promise<QuestionPlaces | undefined> {
    const window = await findWindow(this.#x, /^Zesty Porch asks$/);
    if (window === undefined) return undefined;
    const box = await this.#x
      .ask<{ xPos: number; yPos: number; width: number; height: number }>((cb) =>
        this.#x.client.GetGeometry(window, cb),
      )
      .catch(() => undefined);
    const words = await this.#x.atom(WORDS_PROPERTY);
    const ready = await this.#x.atom(READY_PROPERTY);
    const read = (property: number) =>
      this.#x
        .ask<{ data: Buffer }>((cb) => this.#x.client.GetProperty(0, window, property, 0, 0, 1_000, cb))
        .catch(() => undefined);
    const [text, readyMark] = [await read(words), await read(ready)];
    // It may have gone, or not be complete yet.
    if (!box || !text?.data.length) return undefined;
    const bottom = box.yPos + box.height;
    const left = box.xPos + 60;
    return {
      window,
      text: text.data.toString('utf8'),
      isReady: !!readyMark?.data.length,
      no: { x: box.xPos + 150, y: bottom - 84 },
      yes: { x: box.xPos + box.width - 150, y: bottom - 84 },
      more: { x: left, y: bottom - 146 },
      choice: (i, of, hasMore, isTyped) => ({
        x: left,
        y: bottom - 128 - (hasMore ? 48 : 0) - (isTyped ? 88 : 0) - (of - i) * 36 + 18,
      }),
    };
  }

  /** Waits for a question that says this, until presses count. */
  async questionSaying(says: RegExp): Promise<QuestionPlaces> {
    const giveUpAt = Date.now() + READY_MS;
    while (Date.now() < giveUpAt) {
      const question = await this.question();
      // A window of another program may have its number later.
      if (!question) this.#answered = undefined;
      // What was answered may still stand there for a moment, and a press on it would be lost.
      const isNew = question !== undefined && question.window !== this.#answered;
      if (isNew && question.isReady && says.test(question.text)) return question;
      await new Promise((resolve) => setTimeout(resolve, 80));
    }
    throw new Error(`no question like ${String(says)} came up`);
  }

  /** The same; presses, after a tick at one of the choices where one is wanted. Hands back what the question said. */
  async press(says: RegExp, which: 'yes' | 'no' | 'more', tick?: { i: number; of: number }): Promise<string> {
    const question = await this.questionSaying(says);
    if (tick) {
      const at = question.choice(tick.i, tick.of, false);
      await this.click(at.x, at.y);
    }
    await this.click(question[which].x, question[which].y);
    if (which !== 'more') this.#answered = question.window;
    return question.text;
  }

  /** Reads the question as long as it takes, presses, and presses again until it is gone: too early does not count. */
  async answer(isYes: boolean, readMs = 1_200, signal?: AbortSignal): Promise<boolean> {
    const giveUpAt = Date.now() + READY_MS;
    while (Date.now() < giveUpAt && !signal?.aborted) {
      const question = await this.question();
      if (!question) {
        await new Promise((resolve) => setTimeout(resolve, 80));
        continue;
      }
      await new Promise((resolve) => setTimeout(resolve, readMs));
      const place = isYes ? question.yes : question.no;
      for (let press = 0; press < 8 && (await this.question()); press++) {
        await this.click(place.x, place.y);
        await new Promise((resolve) => setTimeout(resolve, 250));
      }
      return true;
    }
    return false;
  }

  /** Presses at one place, moves through the others, and lets go at the last. */
  async drag(places: readonly Point[]): Promise<void> {
    const [first, ...rest] = places;
    if (!first) return;
    this.#moveTo(first.x, first.y);
    await this.#x.flush();
    this.#device(3, 1, this.#mouse);
    await this.#x.flush();
    for (const { x, y } of rest) {
      this.#moveTo(x, y);
      await this.#x.flush();
    }
    this.#device(4, 1, this.#mouse);
    await this.#x.flush();
  }

  /** The bar at the edge, if it is there: where its buttons are. */
  async bar(): Promise<
    | { stop: Point; hide: Point; private: Point; draw: Point; drawn: Point; less: Point; more: Point; width: number }
    | undefined
  > {
    const bar = await findWindow(this.#x, /^Zesty Porch$/);
    if (bar === undefined) return undefined;
    // It may have gone meanwhile.
    const box = await this.#x
      .ask<{ xPos: number; yPos: number; width: number }>((cb) => this.#x.client.GetGeometry(bar, cb))
      .catch(() => undefined);
    if (!box) return undefined;
    const { xPos, yPos, width } = box;
    return {
      stop: { x: xPos + width - 60, y: yPos + 24 },
      hide: { x: xPos + width - 192, y: yPos + 24 },
      private: { x: xPos + width - 316, y: yPos + 24 },
      draw: { x: xPos + width - 440, y: yPos + 24 },
      /** Where the same button is while they draw. */
      drawn: { x: xPos + width - 192, y: yPos + 24 },
      /** Smaller, where nothing else has a button besides; and back. */
      less: { x: xPos + width - 524, y: yPos + 24 },
      more: { x: xPos + width - 156, y: yPos + 24 },
      width,
    };
  }

  async pressStop(): Promise<void> {
    const bar = await this.bar();
    if (!bar) throw new Error('there is no bar with Stop');
    await this.click(bar.stop.x, bar.stop.y);
  }

  /** The window with what a technician shows, or another one of Doorstep's: where it lies on the screen, and its buttons. */
  async shown(
    title = /shows you their screen|viser deg skjermen|zeigt Ihnen den/,
  ): Promise<{ x: number; y: number; width: number; height: number; close: Point; size: Point } | undefined> {
    const { client, root } = this.#x;
    const window = await findWindow(this.#x, title);
    if (window === undefined) return undefined;
    // It may have gone meanwhile.
    const found = await Promise.all([
      this.#x.ask<{ width: number; height: number }>((cb) => client.GetGeometry(window, cb)),
      this.#x.ask<{ destX: number; destY: number }>((cb) => client.TranslateCoordinates(window, root, 0, 0, cb)),
    ]).catch(() => undefined);
    if (!found) return undefined;
    const [{ width, height }, { destX: x, destY: y }] = found;
    return {
      ...{ x, y, width, height },
      close: { x: x + width - 60, y: y + 22 },
      size: { x: x + width - 184, y: y + 22 },
    };
  }

  /** Where the pointer is. */
  async pointer(): Promise<{ x: number; y: number }> {
    const { rootX, rootY } = await this.#x.ask<{ rootX: number; rootY: number }>((cb) =>
      this.#x.client.QueryPointer(this.#x.root, cb),
    );
    return { x: rootX, y: rootY };
  }

  /** Keys that are down just now, by any device. */
  async keysDown(): Promise<number[]> {
    const map = await this.#x.ask<Buffer>((cb) => this.#x.client.QueryKeymap(cb));
    return Array.from({ length: 256 }, (_, code) => code).filter((code) => ((map[code >> 3] ?? 0) >> (code & 7)) & 1);
  }

  /** Whether the screen is still there: a computer that restarts has another one afterwards. */
  get isGone(): boolean {
    return this.#isGone;
  }
  close(): void {
    this.#x.close();
  }

  /** XTEST's request in its form for one device (XTEST 2.2, FakeInput with an extension event). */
  #device(type: 1 | 2 | 3 | 4, detail: number, device: number): void {
    this.#x.client.seq_num++;
    const request = Buffer.alloc(36);
    request.writeUInt8(this.#xtestOpcode, 0);
    request.writeUInt8(2, 1);
    request.writeUInt16LE(9, 2);
    request.writeUInt8(this.#firstXiEvent + type, 4);
    request.writeUInt8(detail, 5);
    request.writeUInt8(device, 35);
    this.#x.client.pack_stream.put(request);
    this.#x.client.pack_stream.submit();
  }
}
