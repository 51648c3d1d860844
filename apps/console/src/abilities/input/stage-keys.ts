import { MissedTyping, TypedKeys, type KeyTold } from '@porch/client';
import type { InputAct } from '@porch/wire';
import type { Ref } from 'vue';
import type { OwnPreferences } from '../../own-preferences.ts';

/** Modifiers with which a system keeps keys for itself. */
const systemsOwn = ['Alt', 'Meta'] as const;

const toldBy = (event: KeyboardEvent, isDown: boolean): KeyTold => ({
  key: event.key,
  code: event.code,
  isDown,
  isComposing: event.isComposing,
  hasControl: event.ctrlKey,
  hasAlt: event.altKey,
  hasMeta: event.metaKey,
  hasAltGraph: event.getModifierState('AltGraph'),
});

interface StageKeysParts {
  readonly field: Ref<HTMLTextAreaElement | undefined>;
  readonly preferences: OwnPreferences;
  readonly missed: MissedTyping;
  isOpen(): boolean;
  act(what: InputAct): void;
  /** Where what was copied here may be pasted there, and what is copied there is followed. */
  readonly clips: {
    mayPaste(): boolean;
    copyPressed(): void;
  };
  /** The way out for people who have only a keyboard. */
  release(): void;
  /** The key that is this page's own. */
  onLeader(): void;
  /** The system here took the keyboard in the middle of keys that were meant for there. */
  onTakenBySystem(): void;
  missedMore(): void;
}

/** What the field that has the keyboard while somebody works at the stage does with what is typed into it. */
export class StageKeys {
  readonly #parts: StageKeysParts;
  readonly #keys: TypedKeys;

  constructor(parts: StageKeysParts) {
    this.#parts = parts;
    this.#keys = new TypedKeys(parts.preferences.system, parts.preferences.keyMap);
  }

  readonly isControlDown = (): boolean => this.#keys.isHeld('Control');
  readonly beforeButton = (): void => this.#actAll(this.#keys.beforePointer());

  handleKey(event: KeyboardEvent, isDown: boolean): void {
    const { preferences, isOpen, onLeader } = this.#parts;
    if (event.key === preferences.now.value.leaderKey) {
      event.preventDefault();
      if (isDown && !event.repeat) onLeader();
    } else if (!isOpen()) this.#handleMissed(event, isDown);
    else if (event.key === 'Escape' && event.shiftKey) this.#leave(isDown);
    else if (!this.#isLeftToPaste(event, isDown)) this.#pass(event, isDown);
  }

  handleComposed(event: CompositionEvent): void {
    const { field } = this.#parts;
    if (event.data) this.#type(event.data);
    if (field.value) field.value.value = '';
  }
  /** What a dead key made arrives in the field without a key of its own. */
  handleTyped(event: Event): void {
    const { inputType, data, isComposing } = event as InputEvent;
    const { field } = this.#parts;
    if (!isComposing && inputType === 'insertText' && data) this.#type(data);
    if (!isComposing && field.value) field.value.value = '';
  }
  /** Whatever was down when the window lost its keyboard must not stay down, or repeat, over there. */
  handleBlur(): void {
    const { field, isOpen, onTakenBySystem } = this.#parts;
    const wasTaken = systemsOwn.some((key) => this.#keys.isHeld(key)) && !field.value?.ownerDocument.hasFocus();
    const acts = this.#keys.letGo();
    if (!isOpen()) return;
    if (wasTaken) onTakenBySystem();
    this.#actAll(acts);
  }

  #actAll(acts: readonly InputAct[]): void {
    for (const act of acts) this.#parts.act(act);
  }
  #leave(isDown: boolean): void {
    if (!isDown) return;
    this.#parts.release();
    this.#parts.field.value?.blur();
  }

  /** The browser's own paste brings what was copied here; then the keys are pressed there. */
  #isLeftToPaste(event: KeyboardEvent, isDown: boolean): boolean {
    const { preferences, clips } = this.#parts;
    const isApple = preferences.system === 'apple';
    if (!(isApple ? event.metaKey : event.ctrlKey && !event.altKey)) return false;
    if (isDown && /^[cx]$/i.test(event.key)) clips.copyPressed();
    if (!/^v$/i.test(event.key) || !clips.mayPaste()) return false;
    if (isApple) this.#actAll(this.#keys.letGo());
    return true;
  }

  #pass(event: KeyboardEvent, isDown: boolean): void {
    const acts = this.#keys.take(toldBy(event, isDown));
    // A dead key or a character being composed comes as text once it is whole.
    if (!acts) return;
    event.preventDefault();
    this.#actAll(acts);
    if (event.ctrlKey || event.metaKey) return;
    for (const act of acts)
      if (act.act === 'key' && act.isDown && [...act.key].length === 1)
        this.#parts.missed.sent(act.key, performance.now());
  }

  #handleMissed(event: KeyboardEvent, isDown: boolean): void {
    const { missed, missedMore } = this.#parts;
    if (!missed.isGone || !isDown || event.isComposing || event.ctrlKey || event.metaKey || event.key === 'Dead')
      return;
    if (event.key !== 'Tab') event.preventDefault();
    missed.key(event.key);
    missedMore();
  }
  #type(text: string): void {
    const { isOpen, act, missed, missedMore } = this.#parts;
    if (isOpen()) {
      act({ act: 'text', text });
      missed.sent(text, performance.now());
      return;
    }
    missed.composed(text);
    missedMore();
  }
}
