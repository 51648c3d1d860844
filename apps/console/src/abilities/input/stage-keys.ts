import type { InputAct } from '@porch/wire';
import type { Ref } from 'vue';

/** What the field that has the keyboard while somebody works at the stage does with what is typed into it. */
export function useStageKeys(parts: {
  readonly field: Ref<HTMLTextAreaElement | undefined>;
  isOpen(): boolean;
  act(what: InputAct): void;
  /** Where what was copied here may be pasted there, and what is copied there is followed. */
  readonly clips: {
    mayPaste(): boolean;
    copyPressed(): void;
  };
  /** The way out for people who have only a keyboard. */
  release(): void;
}) {
  const { field, isOpen, act, release, clips } = parts;
  /** What is down over there, by the key of this keyboard. */
  const keysDown = new Map<string, string>();

  function handleKey(event: KeyboardEvent, isDown: boolean): void {
    // A dead key or a character being composed comes as text once it is whole.
    if (!isOpen() || event.isComposing || event.key === 'Dead' || event.key === 'Process') return;
    if (event.key === 'Escape' && event.shiftKey) {
      if (isDown) {
        release();
        field.value?.blur();
      }
      return;
    }
    const isWithControl = event.ctrlKey && !event.altKey;
    if (isWithControl && isDown && /^[cx]$/i.test(event.key)) clips.copyPressed();
    // The browser's own paste brings what was copied here; then the keys are pressed there.
    if (isWithControl && /^v$/i.test(event.key) && clips.mayPaste()) return;
    event.preventDefault();
    // The same key goes up by another name when Shift changed meanwhile: over there it went down by this one.
    const key = isDown ? event.key : (keysDown.get(event.code) ?? event.key);
    if (isDown) keysDown.set(event.code, key);
    else keysDown.delete(event.code);
    act({ act: 'key', key, isDown });
  }
  function handleComposed(event: CompositionEvent): void {
    if (event.data) act({ act: 'text', text: event.data });
    if (field.value) field.value.value = '';
  }
  /** What a dead key made arrives in the field without a key of its own. */
  function handleTyped(event: Event): void {
    const { inputType, data, isComposing } = event as InputEvent;
    if (!isComposing && inputType === 'insertText' && data) act({ act: 'text', text: data });
    if (!isComposing && field.value) field.value.value = '';
  }
  /** Whatever was down when the window lost its keyboard must not stay down, or repeat, over there. */
  function handleBlur(): void {
    if (isOpen())
      for (const key of new Set([...keysDown.values(), 'Control', 'Shift', 'Alt', 'Meta']))
        act({ act: 'key', key, isDown: false });
    keysDown.clear();
  }

  const isControlDown = () => [...keysDown.values()].includes('Control');
  return { handleKey, handleComposed, handleTyped, handleBlur, isControlDown };
}
