import type { HidingPort } from '@porch/host';
import type { HiddenWindows } from './hidden-windows.ts';

/** What of this desktop never leaves it. */
export const x11Hiding = (hidden: HiddenWindows): HidingPort => ({
  hideTitled: (words) => hidden.hideTitled(words),
  listPrograms: () => hidden.listPrograms(),
  setHidden: (programs) => hidden.setHidden(programs),
  get hidesAny() {
    return hidden.hidesAny();
  },
  get shown() {
    return hidden.shown;
  },
  showOnly: (program) => hidden.showOnly(program),
  onShownChanged: (listener) => hidden.onShownChanged(listener),
  isInReach: (x, y) => hidden.isInReach(x, y),
  isKeyboardInReach: () => hidden.isKeyboardInReach(),
});
