import type { LinesWindowPort } from '@porch/host';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { LinesPicture } from './lines-picture.ts';
import { OnceMore } from './once-more.ts';
import { ShownWindow } from './shown-window.ts';

/** Beside what the person, and whoever helps them, look at. */
const STANDING = { share: 0.42, corner: 'below' } as const;

/** Lines of text in a window of the desktop, on a connection of its own; in no picture that technicians see. */
export const x11LinesWindow = (display: string, hidden: HiddenWindows): LinesWindowPort => ({
  open(words, on) {
    const picture = new LinesPicture();
    let isClosed = false;
    let window: ShownWindow | undefined;
    let wanted: { readonly rows: readonly string[]; readonly columns: number } = { rows: [], columns: 0 };
    const fail = (error: unknown) => {
      if (!isClosed) on.failed(error);
    };
    const drawing = new OnceMore(async () => {
      if (!wanted.rows.length || isClosed) return;
      const changed = await picture.draw(wanted.rows, wanted.columns);
      if (changed) window?.changed(changed);
      else window?.show(picture);
    });
    ShownWindow.open(display, hidden, { ...words, waiting: '' }, { closed: on.closed, failed: fail }, STANDING).then(
      (opened) => {
        if (isClosed) return opened.close();
        window = opened;
        opened.show(picture);
      },
      fail,
    );
    return {
      show(rows, columns) {
        wanted = { rows, columns };
        drawing.run().catch(fail);
      },
      close() {
        isClosed = true;
        window?.close();
        window = undefined;
      },
    };
  },
});
