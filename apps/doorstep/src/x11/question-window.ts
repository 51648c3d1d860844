import type { Answer, Question } from '@porch/host';
import type { XInput } from 'x11';
import {
  drawPrompt,
  layoutPrompt,
  placeAt,
  placesOf,
  READY_PROPERTY,
  WORDS_PROPERTY,
  type Place,
} from './prompt-layout.ts';
import { OwnWindow } from './own-window.ts';
import type { XConnection } from './x-connection.ts';

/** Nothing pressed within the first second counts: nobody can answer what they had no time to read. */
const ARMING_MS = 1_000;
const TAB = 0xff09;
const ENTER = 0xff0d;
const SPACE = 0x20;
const LEFT = 0xff51;
const RIGHT = 0xff53;

/** Devices whose events a program made. Doorstep's own input comes from these, so a prompt never listens to them. */
export async function syntheticDevices(x: XConnection, xinput: XInput): Promise<ReadonlySet<number>> {
  const devices = await x.ask<{ deviceId: number; name: string }[]>((cb) => xinput.XIQueryDevice(0, cb));
  return new Set(devices.filter((d) => /XTEST/i.test(d.name)).map((d) => d.deviceId));
}

/** Asks the person at the desktop. Only presses of real devices count, and only once the prompt is armed. */
export async function askOnScreen(
  x: XConnection,
  xinput: XInput,
  question: Question,
  signal: AbortSignal,
): Promise<Answer | undefined> {
  const layout = layoutPrompt(question);
  const size = await x.size();
  const keysyms = await readKeysyms(x);
  const synthetic = await syntheticDevices(x, xinput);
  const [wordsAtom, utf8Atom] = [await x.atom(WORDS_PROPERTY), await x.atom('UTF8_STRING')];
  const readyAtom = await x.atom(READY_PROPERTY);
  const focusBefore = await x.ask<{ focus: number }>((cb) => x.client.GetInputFocus(cb));
  if (signal.aborted) return undefined;
  return new Promise((resolve, reject) => {
    let isArmed = false;
    let chosen: Place | undefined;
    let pressed: Place | undefined;
    const ticked = (question.choices ?? []).map((choice) => choice.isOn);
    const places = placesOf(layout);
    const box = {
      x: Math.max(0, Math.round((size.width - layout.width) / 2)),
      y: Math.max(0, Math.round((size.height - layout.height) / 3)),
      width: layout.width,
      height: layout.height,
    };
    function draw(): void {
      window.draw(drawPrompt(question, layout, isArmed, chosen, ticked)).catch((error: unknown) => {
        cleanUp();
        reject(error instanceof Error ? error : new Error(String(error)));
      });
    }
    const window = new OwnWindow(x, 'Zesty Porch asks', box, 0xfaf6ec, (event) => {
      // A device that came after the prompt is looked up as made by a program until the next prompt.
      const isReal = event.sourceId !== undefined && !synthetic.has(event.sourceId);
      if (!isArmed || !isReal) return;
      const under = placeAt(layout, event.x ?? -1, event.y ?? -1);
      if (event.name === 'XIButtonPress' && event.detail === 1) pressed = under;
      else if (event.name === 'XIButtonRelease' && event.detail === 1) {
        if (under !== undefined && under === pressed) take(under);
        pressed = undefined;
      } else if (event.name === 'XIKeyPress') {
        const keysym = keysyms.get(event.detail ?? 0);
        if (keysym === TAB || keysym === RIGHT || keysym === LEFT) {
          const at = chosen === undefined ? -1 : places.indexOf(chosen);
          const step = keysym === LEFT ? places.length - 1 : 1;
          chosen = places[at < 0 ? 0 : (at + step) % places.length];
          draw();
        } else if ((keysym === ENTER || keysym === SPACE) && chosen !== undefined) take(chosen);
      }
    });
    /** A tick changes what a yes means; everything else is the answer. */
    function take(place: Place): void {
      if (typeof place === 'number') {
        if (question.isOneOf) ticked.fill(false);
        ticked[place] = !ticked[place];
        draw();
      } else finish(place === 'yes' ? { what: 'yes', choices: ticked } : { what: place });
    }
    const text = [question.title, ...question.lines].join('\n');
    x.client.ChangeProperty(0, window.id, wordsAtom, utf8Atom, 8, Buffer.from(text));
    const { ButtonPress = 0, ButtonRelease = 0, KeyPress = 0 } = xinput.EventMask;
    // Device 1 stands for all master devices; the event's source then names the real one.
    xinput.XISelectEvents(window.id, [{ deviceId: 1, mask: ButtonPress | ButtonRelease | KeyPress }]);
    x.client.SetInputFocus(window.id, 1);
    const arming = setTimeout(() => {
      isArmed = true;
      x.client.ChangeProperty(0, window.id, readyAtom, utf8Atom, 8, Buffer.from('yes'));
      draw();
    }, ARMING_MS);
    function cleanUp(): void {
      clearTimeout(arming);
      signal.removeEventListener('abort', takeAway);
      window.close();
      if (!x.isGone && focusBefore.focus > 1) x.client.SetInputFocus(focusBefore.focus, 1);
    }
    function finish(answer: Answer | undefined): void {
      cleanUp();
      resolve(answer);
    }
    function takeAway(): void {
      finish(undefined);
    }
    draw();
    signal.addEventListener('abort', takeAway);
    x.onGone(takeAway);
  });
}

export async function readKeysyms(x: XConnection): Promise<Map<number, number>> {
  const { min_keycode: first, max_keycode: last } = x.client.display;
  const map = await x.ask<number[][]>((cb) => x.client.GetKeyboardMapping(first, last - first + 1, cb));
  return new Map(map.map((keysyms, i) => [first + i, keysyms[0] ?? 0]));
}
