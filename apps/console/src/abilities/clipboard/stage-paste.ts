import type { InputAct } from '@porch/wire';

/** Pasting at the stage: what was copied here is brought there first, then the keys that paste are pressed there. */
export function useStagePaste(parts: {
  isOpen(): boolean;
  act(what: InputAct): void;
  mayPaste(): boolean;
  paste(data: DataTransfer | null): Promise<boolean>;
  isControlDown(): boolean;
}) {
  const { isOpen, act, mayPaste, paste, isControlDown } = parts;
  return async (event: ClipboardEvent): Promise<void> => {
    event.preventDefault();
    if (!isOpen() || !mayPaste() || !(await paste(event.clipboardData)) || !isOpen()) return;
    const isHeld = isControlDown();
    if (!isHeld) act({ act: 'key', key: 'Control', isDown: true });
    for (const isDown of [true, false]) act({ act: 'key', key: 'v', isDown });
    if (!isHeld) act({ act: 'key', key: 'Control', isDown: false });
  };
}
