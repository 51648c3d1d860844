import { XConnection, loadExtensions, READY_PROPERTY, WORDS_PROPERTY } from '@porch/doorstep';
import { mkdirSync, writeFileSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import type { ChildProcess } from 'node:child_process';
import { giveTo, type Account } from './account.ts';
import type { Processes } from './processes.ts';

const READY_MS = 60_000;

export interface DesktopOptions {
  readonly name: string;
  readonly home: string;
  readonly width?: number;
  readonly height?: number;
  readonly programs?: 'all' | 'none' | 'editor';
  /** An extension that its X server does without. */
  readonly lacks?: 'XTEST' | 'DAMAGE';
  /** Whose desktop it is; ours without one. */
  readonly account?: Account | undefined;
}

export interface XDesktop {
  readonly display: string;
  readonly home: string;
  readonly settingsFile: string;
  readonly server: ChildProcess;
}

const printerSettings = `# Boarding-pass printer, Tern Quay office
model      = Quayprint 80
paper      = pass-80x180
resolution = 203
# the driver update of Monday set this to half
barcode-height = 12
margin-left    = 4
`;

/** A real X11 desktop: Xvfb, a window manager, and small programs that a customer would have open. */
export async function startDesktop(processes: Processes, options: DesktopOptions): Promise<XDesktop> {
  const { name, home, width = 1280, height = 800, programs = 'all', lacks, account } = options;
  mkdirSync(join(home, 'Documents'), { recursive: true });
  const settingsFile = join(home, 'Documents', 'printer-settings.conf');
  if (!existsSync(settingsFile)) writeFileSync(settingsFile, printerSettings);
  const notes = join(home, 'Documents', 'sailings.txt');
  if (!existsSync(notes)) writeFileSync(notes, '07:10 Tern Quay to Lower Saltby\n08:25 Lower Saltby to Tern Quay\n');
  writeOpenboxRules(home);
  if (account) giveTo(account, home);
  const server = processes.start(
    `screen of ${name}`,
    'Xvfb',
    [
      ...['-displayfd', '3', '-screen', '0', `${width}x${height}x24`, '-nolisten', 'tcp', '-noreset'],
      ...(lacks ? ['-extension', lacks] : []),
    ],
    { stdio: ['ignore', 'ignore', 'ignore', 'pipe'], ...account },
  );
  const number = await new Promise<string>((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error('Xvfb was not ready in time')), READY_MS);
    server.once('exit', (code) => reject(new Error(`Xvfb ended with ${code}`)));
    (server.stdio[3] as NodeJS.ReadableStream).once('data', (part: Buffer) => {
      clearTimeout(timer);
      resolve(part.toString().trim());
    });
  });
  const display = `:${number}`;
  const env = {
    ...process.env,
    DISPLAY: display,
    HOME: home,
    XDG_CONFIG_HOME: join(home, '.config'),
    XDG_CACHE_HOME: join(home, '.cache'),
    XDG_DATA_HOME: join(home, '.local', 'share'),
    XDG_RUNTIME_DIR: home,
    NO_AT_BRIDGE: '1',
    LANG: 'C.UTF-8',
    DBUS_SESSION_BUS_ADDRESS: 'disabled:',
  };
  const run = (command: string, args: string[]) =>
    processes.start(`${command} of ${name}`, command, args, { env, cwd: home, stdio: 'ignore', ...account });
  run('openbox', ['--config-file', join(home, '.config', 'openbox', 'rc.xml')]);
  // Who comes before the window manager is not placed by it.
  await waitOn(display, 'the window manager', hasWindowManager);
  run('xsetroot', ['-solid', '#7d93a5']);
  if (programs !== 'none') run('mousepad', ['--disable-server', settingsFile]);
  if (programs === 'all') {
    run('pcmanfm', ['--no-desktop', join(home, 'Documents')]);
    run('xterm', [
      '-T',
      'Terminal',
      '-fa',
      'DejaVu Sans Mono',
      '-fs',
      '10',
      '-geometry',
      '64x14',
      '-e',
      'sh',
      '-c',
      'echo "Tern Quay ticket office"; exec sh',
    ]);
    run('galculator', []);
  }
  if (programs !== 'none') await waitForWindow(display, /printer-settings/);
  return { display, home, settingsFile, server };
}

/** Where windows stand, so that a picture of the desktop looks the same each time. */
function writeOpenboxRules(home: string): void {
  const folder = join(home, '.config', 'openbox');
  mkdirSync(folder, { recursive: true });
  const place = (what: string, x: number, y: number, width?: number, height?: number) =>
    `<application name="${what}*" type="normal"><position force="yes"><x>${x}</x><y>${y}</y></position>${width ? `<size><width>${width}</width><height>${height}</height></size>` : ''}</application>`;
  writeFileSync(
    join(folder, 'rc.xml'),
    `<?xml version="1.0"?><openbox_config xmlns="http://openbox.org/3.4/rc"><resistance><strength>10</strength></resistance><focus><focusNew>yes</focusNew></focus>
    <theme><name>Clearlooks</name><font place="ActiveWindow"><name>DejaVu Sans</name><size>9</size></font></theme><desktops><number>1</number></desktops>
    <mouse><context name="Client"><mousebind button="Left" action="Press"><action name="Focus"/><action name="Raise"/></mousebind></context>
    <context name="Titlebar"><mousebind button="Left" action="Press"><action name="Focus"/><action name="Raise"/></mousebind><mousebind button="Left" action="Drag"><action name="Move"/></mousebind></context></mouse>
    <applications>${place('mousepad', 40, 70, 620, 420)}${place('pcmanfm', 700, 90, 520, 330)}${place('xterm', 690, 470)}${place('galculator', 60, 540)}</applications></openbox_config>`,
  );
}

/** Resolves when a window whose name fits is on the screen; with its id. */
export const waitForWindow = (display: string, name: RegExp, timeoutMs = READY_MS): Promise<number> =>
  waitOn(display, `a window like ${name}`, (x) => findWindow(x, name), timeoutMs);

/** Looks again and again until there is something. */
async function waitOn<T>(
  display: string,
  what: string,
  look: (x: XConnection) => Promise<T | undefined>,
  timeoutMs = READY_MS,
): Promise<T> {
  const x = await XConnection.open(display, () => undefined);
  try {
    const giveUpAt = Date.now() + timeoutMs;
    while (Date.now() < giveUpAt) {
      const found = await look(x);
      if (found !== undefined) return found;
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    throw new Error(`${what} did not come up on ${display}`);
  } finally {
    x.close();
  }
}

/** By the property that Extended Window Manager Hints have for it. */
async function hasWindowManager(x: XConnection): Promise<true | undefined> {
  const check = await x.atom('_NET_SUPPORTING_WM_CHECK');
  const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, x.root, check, 0, 0, 1, cb));
  return data.length ? true : undefined;
}

export async function findWindow(x: XConnection, name: RegExp): Promise<number | undefined> {
  const visit = async (window: number, depth: number): Promise<number | undefined> => {
    const { children } = await x.ask<{ children: number[] }>((cb) => x.client.QueryTree(window, cb));
    for (const child of children) {
      const text = await x
        .ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, child, 39, 0, 0, 200, cb))
        .catch(() => undefined);
      if (text && name.test(text.data.toString('utf8'))) return child;
      const inside = depth > 0 ? await visit(child, depth - 1).catch(() => undefined) : undefined;
      if (inside !== undefined) return inside;
    }
    return undefined;
  };
  return visit(x.root, 1);
}

interface Point {
  readonly x: number;
  readonly y: number;
}
export interface QuestionPlaces {
  /** Presses count: whoever sees it had the time to read. */
  readonly isReady: boolean;
  /** What it says, line by line. */
  readonly text: string;
  readonly yes: Point;
  readonly no: Point;
  /** The third way to go, where there is one. */
  readonly more: Point;
  /** The i-th of so many that can be ticked. */
  choice(i: number, of: number, hasMore: boolean): Point;
}

/** A person's own mouse and keyboard: events come from the X server's real devices, as a hand's would. */
export class PersonAtDesk {
  readonly #x: XConnection;
  readonly #xtestOpcode: number;
  readonly #firstXiEvent: number;
  readonly #mouse: number;
  readonly #keyboard: number;
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

  /** Several keys at once, as hands hold them. */
  async chord(keycodes: readonly number[]): Promise<void> {
    for (const code of keycodes) this.#device(1, code, this.#keyboard);
    await this.#x.flush();
    // Whoever looks at what is held needs it to be held for a moment.
    await new Promise((resolve) => setTimeout(resolve, 120));
    for (const code of [...keycodes].reverse()) this.#device(2, code, this.#keyboard);
    await this.#x.flush();
  }

  async tapKey(keycode: number): Promise<void> {
    this.#device(1, keycode, this.#keyboard);
    this.#device(2, keycode, this.#keyboard);
    await this.#x.flush();
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
      text: text.data.toString('utf8'),
      isReady: !!readyMark?.data.length,
      no: { x: box.xPos + 150, y: bottom - 84 },
      yes: { x: box.xPos + box.width - 150, y: bottom - 84 },
      more: { x: left, y: bottom - 146 },
      choice: (i, of, hasMore) => ({ x: left, y: bottom - 128 - (hasMore ? 48 : 0) - (of - i) * 36 + 18 }),
    };
  }

  /** Waits for a question that says this, until presses count. */
  async questionSaying(says: RegExp): Promise<QuestionPlaces> {
    const giveUpAt = Date.now() + READY_MS;
    while (Date.now() < giveUpAt) {
      const question = await this.question();
      if (question?.isReady && says.test(question.text)) return question;
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

  /** The bar at the edge, if it is there: where its buttons are. */
  async bar(): Promise<{ stop: Point; hide: Point; private: Point } | undefined> {
    const bar = await findWindow(this.#x, /^Zesty Porch$/);
    if (bar === undefined) return undefined;
    const { xPos, yPos, width } = await this.#x.ask<{ xPos: number; yPos: number; width: number }>((cb) =>
      this.#x.client.GetGeometry(bar, cb),
    );
    return {
      stop: { x: xPos + width - 60, y: yPos + 24 },
      hide: { x: xPos + width - 192, y: yPos + 24 },
      private: { x: xPos + width - 316, y: yPos + 24 },
    };
  }

  async pressStop(): Promise<void> {
    const bar = await this.bar();
    if (!bar) throw new Error('there is no bar with Stop');
    await this.click(bar.stop.x, bar.stop.y);
  }

  /** Keys that are down just now, by any device. */
  /** Where the pointer is. */
  async pointer(): Promise<{ x: number; y: number }> {
    const { rootX, rootY } = await this.#x.ask<{ rootX: number; rootY: number }>((cb) =>
      this.#x.client.QueryPointer(this.#x.root, cb),
    );
    return { x: rootX, y: rootY };
  }

  async keysDown(): Promise<number[]> {
    const map = await this.#x.ask<Buffer>((cb) => this.#x.client.QueryKeymap(cb));
    return Array.from({ length: 256 }, (_, code) => code).filter((code) => ((map[code >> 3] ?? 0) >> (code & 7)) & 1);
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
