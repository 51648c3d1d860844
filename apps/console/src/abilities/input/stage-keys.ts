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

/** What the field that has the keyboard while somebody works at the stage does with what is typed into it. */
export function useStageKeys(parts: {
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
}) {
  const { field, isOpen, release, clips, preferences, missed } = parts;
  const keys = new TypedKeys(preferences.system, preferences.keyMap);
  const actAll = (acts: readonly InputAct[]) => acts.forEach((act) => parts.act(act));
  const isChord = (event: KeyboardEvent) =>
    preferences.system === 'apple' ? event.metaKey : event.ctrlKey && !event.altKey;

  function handleMissed(event: KeyboardEvent, isDown: boolean): void {
    if (!missed.isGone || !isDown || event.isComposing || event.ctrlKey || event.metaKey || event.key === 'Dead')
      return;
    if (event.key !== 'Tab') event.preventDefault();
    missed.key(event.key);
    parts.missedMore();
  }

  function handleKey(event: KeyboardEvent, isDown: boolean): void {
    if (event.key === preferences.now.value.leaderKey) {
      event.preventDefault();
      if (isDown && !event.repeat) parts.onLeader();
      return;
    }
    if (!isOpen()) return handleMissed(event, isDown);
    if (event.key === 'Escape' && event.shiftKey) {
      if (isDown) {
        release();
        field.value?.blur();
      }
      return;
    }
    if (isChord(event) && isDown && /^[cx]$/i.test(event.key)) clips.copyPressed();
    // The browser's own paste brings what was copied here; then the keys are pressed there.
    if (isChord(event) && /^v$/i.test(event.key) && clips.mayPaste()) {
      if (preferences.system === 'apple') actAll(keys.letGo());
      return;
    }
    const acts = keys.take(toldBy(event, isDown));
    // A dead key or a character being composed comes as text once it is whole.
    if (!acts) return;
    event.preventDefault();
    actAll(acts);
    for (const act of acts)
      if (act.act === 'key' && act.isDown && [...act.key].length === 1 && !event.ctrlKey && !event.metaKey)
        missed.sent(act.key, performance.now());
  }

  function type(text: string): void {
    if (isOpen()) {
      parts.act({ act: 'text', text });
      missed.sent(text, performance.now());
    } else {
      missed.composed(text);
      parts.missedMore();
    }
  }
  function handleComposed(event: CompositionEvent): void {
    if (event.data) type(event.data);
    if (field.value) field.value.value = '';
  }
  /** What a dead key made arrives in the field without a key of its own. */
  function handleTyped(event: Event): void {
    const { inputType, data, isComposing } = event as InputEvent;
    if (!isComposing && inputType === 'insertText' && data) type(data);
    if (!isComposing && field.value) field.value.value = '';
  }
  /** Whatever was down when the window lost its keyboard must not stay down, or repeat, over there. */
  function handleBlur(): void {
    if (isOpen()) {
      if (systemsOwn.some((key) => keys.isHeld(key)) && !field.value?.ownerDocument.hasFocus()) parts.onTakenBySystem();
      actAll(keys.letGo());
    } else keys.letGo();
  }

  return {
    ...{ handleKey, handleComposed, handleTyped, handleBlur },
    isControlDown: () => keys.isHeld('Control'),
    beforeButton: () => actAll(keys.beforePointer()),
  };
}
