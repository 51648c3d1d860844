import type { Answer, Question } from '@porch/host';
import type { XEvent, XInput } from 'x11';
import type { Box } from '../server/box.ts';
import type { XConnection } from '../server/connection.ts';
import { grabDevice, ungrabDevice } from '../server/device-grabs.ts';
import { masterKeyboard, readKeyColumns, type KeyColumns } from '../server/input-events.ts';
import { OwnDevices } from '../server/own-devices.ts';
import { OwnWindow } from '../server/own-window.ts';
import {
  drawPrompt,
  layoutPrompt,
  placeAt,
  placesOf,
  READY_PROPERTY,
  WORDS_PROPERTY,
  type Place,
  type PromptLayout,
} from './prompt-layout.ts';
import { keysymWith, TypedText } from './typed-text.ts';

/** Nothing pressed within the first second counts: nobody can answer what they had no time to read. */
const ARMING_MS = 1_000;
const TAB = 0xff09;
const ENTER = 0xff0d;
const SPACE = 0x20;
const LEFT = 0xff51;
const RIGHT = 0xff53;

/** What a window of a question needs to know of its display beforehand. */
interface Surroundings {
  readonly x: XConnection;
  readonly xinput: XInput;
  readonly size: { readonly width: number; readonly height: number };
  readonly columns: KeyColumns;
  readonly own: OwnDevices;
  readonly atoms: { readonly words: number; readonly ready: number; readonly utf8: number };
  readonly focusBefore: number;
}

async function lookAround(x: XConnection, xinput: XInput): Promise<Surroundings> {
  const { focus } = await x.ask<{ focus: number }>((cb) => x.client.GetInputFocus(cb));
  return {
    x,
    xinput,
    size: await x.size(),
    columns: await readKeyColumns(x),
    own: await OwnDevices.of(x, xinput),
    atoms: {
      words: await x.atom(WORDS_PROPERTY),
      ready: await x.atom(READY_PROPERTY),
      utf8: await x.atom('UTF8_STRING'),
    },
    focusBefore: focus,
  };
}

/** Asks the person at the desktop. Only presses of real devices count, and only once the prompt is armed. */
export async function askOnScreen(
  x: XConnection,
  xinput: XInput,
  question: Question,
  signal: AbortSignal,
): Promise<Answer | undefined> {
  const around = await lookAround(x, xinput);
  if (signal.aborted) return undefined;
  return new QuestionWindow(around, question, signal).answer;
}

/** One question on the screen, from when it is put until it is answered or taken away. */
class QuestionWindow {
  readonly answer: Promise<Answer | undefined>;
  readonly #around: Surroundings;
  readonly #question: Question;
  readonly #signal: AbortSignal;
  readonly #layout: PromptLayout;
  readonly #places: readonly Place[];
  readonly #ticked: boolean[];
  /** What is typed where something is to be typed. */
  readonly #typed: TypedText | undefined;
  readonly #hearKeys = (event: XEvent) => this.#followGrabbed(event);
  readonly #window: OwnWindow;
  readonly #arming: ReturnType<typeof setTimeout>;
  readonly #takeAway = () => this.#finish(undefined);
  #resolve: (answer: Answer | undefined) => void = () => undefined;
  #reject: (why: Error) => void = () => undefined;
  #isArmed = false;
  #isOver = false;
  /** The keyboard, while nobody else hears it. */
  #taken: number | undefined;
  #chosen: Place | undefined;
  #pressed: Place | undefined;

  constructor(around: Surroundings, question: Question, signal: AbortSignal) {
    this.#around = around;
    this.#question = question;
    this.#signal = signal;
    this.#layout = layoutPrompt(question, around.size);
    this.#places = placesOf(this.#layout);
    this.#ticked = (question.choices ?? []).map((choice) => choice.isOn);
    this.#typed = question.typed && new TypedText();
    this.answer = new Promise((resolve, reject) => {
      this.#resolve = resolve;
      this.#reject = reject;
    });
    const { x, xinput, atoms } = around;
    const box = inTheMiddle(this.#layout, around.size);
    this.#window = new OwnWindow(x, 'Zesty Porch asks', box, 0xfaf6ec, {
      onEvent: (event) => this.#follow(event),
      takesKeys: true,
    });
    this.#setProperty(atoms.words, [question.title, ...question.lines].join('\n'));
    const { ButtonPress = 0, ButtonRelease = 0, KeyPress = 0 } = xinput.EventMask;
    // Device 1 stands for all master devices; the event's source then names the real one.
    xinput.XISelectEvents(this.#window.id, [{ deviceId: 1, mask: ButtonPress | ButtonRelease | KeyPress }]);
    x.client.SetInputFocus(this.#window.id, 1);
    if (this.#typed) this.#takeKeyboard();
    this.#arming = setTimeout(() => this.#arm(), ARMING_MS);
    this.#draw();
    signal.addEventListener('abort', this.#takeAway);
    x.onGone(this.#takeAway);
  }

  #arm(): void {
    this.#isArmed = true;
    this.#setProperty(this.#around.atoms.ready, 'yes');
    this.#draw();
  }

  /** What is typed goes nowhere else, whichever window takes the keyboard. */
  #takeKeyboard(): void {
    const { x, xinput } = this.#around;
    x.client.on('event', this.#hearKeys);
    const take = async () => {
      const keyboard = await masterKeyboard(x, xinput);
      await grabDevice(x, xinput, keyboard, xinput.EventMask['KeyPress'] ?? 0);
      if (this.#isOver) ungrabDevice(x, xinput, keyboard);
      else this.#taken = keyboard;
    };
    // Somebody else has it, a menu that is open: what goes there is not shown as dots here.
    take().catch(() => undefined);
  }
  #followGrabbed(event: XEvent): void {
    if (event.name === 'XIKeyPress' && event.wid === this.#around.x.root) this.#follow(event);
  }

  #follow(event: XEvent): void {
    if (!this.#isArmed || !this.#around.own.has(event.sourceId)) return;
    const under = placeAt(this.#layout, event.x ?? -1, event.y ?? -1);
    if (event.name === 'XIButtonPress' && event.detail === 1) this.#pressed = under;
    else if (event.name === 'XIButtonRelease' && event.detail === 1) {
      if (under !== undefined && under === this.#pressed) this.#take(under);
      this.#pressed = undefined;
    } else if (event.name === 'XIKeyPress' && !this.#isTyped(event)) this.#takeKey(this.#plainOf(event.detail));
  }

  /** What a key is without anything that is held. */
  #plainOf(keycode = 0): number {
    return this.#around.columns.get(keycode)?.[0] ?? 0;
  }

  /** Whether it was typed: then it is neither for a button nor for anybody else. */
  #isTyped({ detail = 0, mods, group }: XEvent): boolean {
    const plain = this.#plainOf(detail);
    if (!this.#typed) return false;
    if (plain === ENTER && this.#chosen === undefined) this.#chosen = 'yes';
    // A space is a character of it, unless a button has the keyboard.
    if (plain === ENTER || plain === TAB || (plain === SPACE && this.#chosen !== undefined)) return false;
    const state = effectiveOf(mods);
    if (!this.#typed.take(keysymWith(this.#around.columns.get(detail) ?? [], state, effectiveOf(group)), state))
      return false;
    this.#chosen = undefined;
    this.#draw();
    return true;
  }

  #takeKey(keysym: number): void {
    if (keysym === TAB || keysym === RIGHT || keysym === LEFT) {
      const at = this.#chosen === undefined ? -1 : this.#places.indexOf(this.#chosen);
      const step = keysym === LEFT ? this.#places.length - 1 : 1;
      this.#chosen = this.#places[at < 0 ? 0 : (at + step) % this.#places.length];
      this.#draw();
    } else if ((keysym === ENTER || keysym === SPACE) && this.#chosen !== undefined) this.#take(this.#chosen);
  }

  /** A tick changes what a yes means; everything else is the answer. */
  #take(place: Place): void {
    if (typeof place === 'number') {
      if (this.#question.isOneOf) this.#ticked.fill(false);
      this.#ticked[place] = !this.#ticked[place];
      this.#draw();
    } else if (place !== 'yes') this.#finish({ what: place });
    else if (!this.#typed) this.#finish({ what: 'yes', choices: this.#ticked });
    else if (this.#typed.text) this.#finish({ what: 'yes', choices: this.#ticked, typed: this.#typed.text });
  }

  #draw(): void {
    const { length = 0 } = this.#typed ?? {};
    const svg = drawPrompt(this.#question, this.#layout, this.#isArmed, this.#chosen, this.#ticked, length);
    this.#window.draw(svg).catch((error: unknown) => {
      this.#cleanUp();
      this.#reject(error instanceof Error ? error : new Error(String(error)));
    });
  }

  #setProperty(atom: number, text: string): void {
    const { x, atoms } = this.#around;
    x.client.ChangeProperty(0, this.#window.id, atom, atoms.utf8, 8, Buffer.from(text));
  }

  #finish(answer: Answer | undefined): void {
    this.#cleanUp();
    this.#resolve(answer);
  }

  #cleanUp(): void {
    const { x, xinput, focusBefore } = this.#around;
    this.#isOver = true;
    if (this.#typed) {
      this.#typed.clear();
      x.client.removeListener('event', this.#hearKeys);
      if (this.#taken !== undefined && !x.isGone) ungrabDevice(x, xinput, this.#taken);
    }
    clearTimeout(this.#arming);
    this.#signal.removeEventListener('abort', this.#takeAway);
    this.#window.close();
    if (!x.isGone && focusBefore > 1) x.client.SetInputFocus(focusBefore, 1);
  }
}

/** Of modifiers and groups the library hands on what counts as a whole under this name. */
const effectiveOf = (said: unknown): number =>
  typeof said === 'object' && said !== null && 'effective' in said ? Number(said.effective) : 0;

const inTheMiddle = (
  { width, height }: PromptLayout,
  screen: { readonly width: number; readonly height: number },
): Box => ({
  x: Math.max(0, Math.round((screen.width - width) / 2)),
  y: Math.max(0, Math.round((screen.height - height) / 3)),
  width,
  height,
});
