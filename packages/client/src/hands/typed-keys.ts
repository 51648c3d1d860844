import { keyMeanings, mappableKeys, type KeyMap, type KeyboardSystem, type MappableKey } from '@porch/core';
import type { InputAct } from '@porch/wire';

/** What a browser tells of a key (W3C UI Events, `KeyboardEvent`), without the page around it. */
export interface KeyTold {
  readonly key: string;
  readonly code: string;
  readonly isDown: boolean;
  readonly isComposing: boolean;
  readonly hasControl: boolean;
  readonly hasAlt: boolean;
  readonly hasMeta: boolean;
  /** The third level of this keyboard is on: what European layouts call AltGr. */
  readonly hasAltGraph: boolean;
}

/** Made of several presses: whole it comes as text, by the browser. */
const composedKeys: readonly string[] = ['Dead', 'Process', 'Compose', 'Unidentified'];
/** They choose what this keyboard's own keys make; over there only what was made arrives. */
const ownChoosers: readonly string[] = ['AltGraph', 'NumLock', 'Fn', 'FnLock', 'Symbol', 'SymbolLock'];
/** Modifiers that cannot be told from a part of this keyboard's own choosing before the next key: they are held back until then. */
const heldBackCodes: Readonly<Record<KeyboardSystem, readonly string[]>> = {
  // AltGr is told as Control and then AltGraph.
  windows: ['ControlLeft'],
  // Option makes characters, and is Alt with arrows and the mouse.
  apple: ['AltLeft', 'AltRight'],
  linux: [],
};
/** Letters beyond this are of scripts in which no program has its shortcuts. */
const LAST_LATIN = 0x24f;

const press = (key: string, isDown: boolean): InputAct => ({ act: 'key', key, isDown });
const isCharacter = (key: string) => [...key].length === 1;
const isMappable = (key: string): key is MappableKey => (mappableKeys as readonly string[]).includes(key);
const isModifier = (key: string) => ['Control', 'Alt', 'Meta', 'Shift'].includes(key);

/**
 * A technician's keyboard, as keys of the customer's: the character that was meant arrives, whatever layout made it here;
 * modifiers are what their own map makes of them; and whatever is pressed there is let go there.
 */
export class TypedKeys {
  readonly #system: KeyboardSystem;
  readonly #map: () => KeyMap;
  /** What is down over there, by the key of this keyboard. */
  readonly #down = new Map<string, string>();
  /** Modifiers that are down here and not yet over there, and whether they made something here meanwhile. */
  readonly #heldBack = new Map<string, { readonly meaning: string; hasMade: boolean }>();

  constructor(system: KeyboardSystem, map: () => KeyMap) {
    this.#system = system;
    this.#map = map;
  }

  /** What is to be done there. Undefined: the browser makes something of it first. */
  take(told: KeyTold): InputAct[] | undefined {
    const { key, code, isDown, isComposing } = told;
    // What went down there comes up there, whatever its key is called by then.
    if (!isDown && (this.#down.has(code) || this.#heldBack.has(code))) return this.#up(code);
    if (isComposing || composedKeys.includes(key)) return undefined;
    if (key === 'AltGraph') this.#heldBack.delete('ControlLeft');
    if (key === 'CapsLock') return this.#capsLock(code, isDown);
    if (!isDown || ownChoosers.includes(key)) return [];
    if (isModifier(key)) return this.#modifier(key, code);
    return isCharacter(key) ? this.#character(told) : this.#named(key, code);
  }

  /** Before a button of the mouse: what was held back belongs to it. */
  beforePointer(): InputAct[] {
    return this.#bringDown();
  }

  /** What a program here pressed there by itself is down there, too: whether one of these is. */
  isHeld(key: string): boolean {
    return [...this.#down.values()].includes(key);
  }

  /** Everything, and modifiers also where nothing is known to be down: nothing of a window without the keyboard stays, or repeats. */
  letGo(): InputAct[] {
    const all = new Set([...this.#down.values(), ...keyMeanings.filter((key) => isModifier(key)), 'Shift']);
    this.#down.clear();
    this.#heldBack.clear();
    return [...all].map((key) => press(key, false));
  }

  #meaningOf(key: string): string | undefined {
    const meaning = isMappable(key) ? this.#map()[key] : undefined;
    return meaning === 'nothing' ? undefined : (meaning ?? key);
  }

  #modifier(key: string, code: string): InputAct[] {
    const meaning = this.#meaningOf(key);
    if (meaning === undefined || this.#down.has(code) || this.#heldBack.has(code)) return [];
    if (!heldBackCodes[this.#system].includes(code)) return this.#holdDown(code, meaning);
    this.#heldBack.set(code, { meaning, hasMade: false });
    return [];
  }

  /** Without a meaning of its own it chooses large letters here, and they arrive so. */
  #capsLock(code: string, isDown: boolean): InputAct[] {
    const meaning = this.#map().CapsLock;
    if (meaning === undefined || meaning === 'nothing') return [];
    // There it is told when the lock comes on and when it goes, not when the key does.
    if (this.#system === 'apple') return this.#tap(meaning);
    return isDown && !this.#down.has(code) ? this.#holdDown(code, meaning) : [];
  }

  #tap(key: string): InputAct[] {
    return this.isHeld(key) ? [] : [press(key, true), press(key, false)];
  }

  /** Two keys can have one meaning: over there it is one key, and the last of them lets go of it. */
  #holdDown(code: string, meaning: string): InputAct[] {
    const isNew = !this.isHeld(meaning);
    this.#down.set(code, meaning);
    return isNew ? [press(meaning, true)] : [];
  }

  #named(key: string, code: string): InputAct[] {
    const meaning = this.#meaningOf(key);
    if (meaning === undefined) return [];
    return [
      ...this.#bringDown(),
      ...(isModifier(meaning) ? this.#holdDown(code, meaning) : this.#downWith(code, meaning)),
    ];
  }

  #character({ key, code, hasControl, hasAlt, hasMeta, hasAltGraph }: KeyTold): InputAct[] {
    // Made by a third level here: what made it is no part of it.
    const isMade = hasAltGraph || (this.#system === 'apple' && hasAlt && !hasControl && !hasMeta);
    if (isMade) {
      for (const modifier of this.#heldBack.values()) modifier.hasMade = true;
      return this.#downWith(code, key);
    }
    const isShortcut = hasControl || hasMeta || hasAlt;
    const before = this.#bringDown();
    if (!isShortcut) return [...before, ...this.#downWith(code, key)];
    const letter = latinOf(key, code);
    // While Command is held these systems never tell that another key came up.
    if (this.#system === 'apple' && hasMeta) return [...before, press(letter, true), press(letter, false)];
    return [...before, ...this.#downWith(code, letter)];
  }

  #downWith(code: string, key: string): InputAct[] {
    const earlier = this.#down.get(code);
    this.#down.set(code, key);
    return [...(earlier !== undefined && earlier !== key ? [press(earlier, false)] : []), press(key, true)];
  }

  #bringDown(): InputAct[] {
    return [...this.#heldBack].flatMap(([code, { meaning }]) => {
      this.#heldBack.delete(code);
      return this.#holdDown(code, meaning);
    });
  }

  #up(code: string): InputAct[] {
    const heldBack = this.#heldBack.get(code);
    if (heldBack) {
      this.#heldBack.delete(code);
      // Pressed alone, it means itself alone.
      return heldBack.hasMade ? [] : this.#tap(heldBack.meaning);
    }
    const key = this.#down.get(code) ?? '';
    this.#down.delete(code);
    return this.isHeld(key) ? [] : [press(key, false)];
  }
}

/** The Latin letter of that key, where this layout's is of a script without shortcuts. */
function latinOf(key: string, code: string): string {
  const letter = /^Key([A-Z])$/.exec(code)?.[1];
  return letter !== undefined && (key.codePointAt(0) ?? 0) > LAST_LATIN ? letter.toLowerCase() : key;
}
