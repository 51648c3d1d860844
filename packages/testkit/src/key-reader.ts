import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';

/** A window on somebody's screen that says which characters, keys and buttons come to it, as every program reads them. */
export class KeyReader {
  readonly #program;
  heard = '';
  keys: string[] = [];
  /** Numbers of the X11 protocol: 1 to 3 are those of a mouse, 4 and 5 a step of its wheel up and down. */
  buttons: number[] = [];

  constructor(display: string, geometry = '300x200+500+300') {
    const env = { ...process.env, DISPLAY: display, LC_ALL: 'C.UTF-8' };
    this.#program = spawn('xev', ['-event', 'keyboard', '-event', 'button', '-geometry', geometry], { env });
    let isPress = false;
    createInterface(this.#program.stdout).on('line', (line) => {
      if (/^(Key|Button)(Press|Release) event/.test(line)) isPress = line.includes('Press event');
      if (!isPress) return;
      const keysym = /keysym 0x[0-9a-f]+, (\w+)\)/.exec(line)?.[1];
      if (keysym) this.keys.push(keysym);
      const button = /, button (\d+),/.exec(line)?.[1];
      if (button) this.buttons.push(Number(button));
      const text = /XLookupString gives \d+ bytes: \([0-9a-f ]+\) "(.*)"$/.exec(line)?.[1];
      if (text !== undefined) this.heard += text;
    });
  }
  stop(): void {
    this.#program.kill();
  }
}
