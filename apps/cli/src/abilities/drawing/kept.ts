import { TechnicianDrawing } from '@porch/client';
import { AppError, MAX_MARK_POINTS, type Mark } from '@porch/wire';
import { defineKept } from '../cli-ability.ts';
import { keptPicture } from '../picture/kept.ts';
import { drawingCalls } from './calls.ts';

/** A terminal shows no picture: what is drawn is looked for in none. */
const NOTHING_SEEN = 0;

export const keptDrawing = defineKept({
  name: 'drawing',
  calls: drawingCalls,
  begin(kit) {
    const picture = kit.kept(keptPicture);
    const drawing = new TechnicianDrawing(kit.connection, () => NOTHING_SEEN);
    const sizeOf = (display: number) => picture.displays.find((row) => row.display === display);
    return { need: () => kit.need('draw-on-screen'), sizeOf, drawing, close: () => drawing.close() };
  },
  answer: {
    draw: ({ need, sizeOf, drawing }, { kind, places, text, display, fades }) => {
      need();
      const size = sizeOf(display);
      if (!size) throw new AppError('NOT_PRESENT');
      const points = places.map(({ x, y }) => ({ x: Math.min(1, x / size.width), y: Math.min(1, y / size.height) }));
      const isSent = send(drawing, { kind, points, ...(text === undefined ? {} : { text }) }, display, fades);
      if (!isSent) throw new AppError('NOT_PRESENT');
      return Promise.resolve({ kind, places: points.length, display });
    },
    unmark: ({ need, drawing }, { which }) => {
      need();
      drawing.unmark(which);
      return Promise.resolve({ which });
    },
  },
});

/** In as many messages as it takes. */
function send(drawing: TechnicianDrawing, mark: Mark, display: number, fades: boolean): boolean {
  const [first, ...rest] = mark.points;
  const isLine = mark.kind === 'pen' || mark.kind === 'marker';
  if (!isLine || mark.points.length <= MAX_MARK_POINTS || !first) return drawing.mark(mark, display, fades);
  const growing = drawing.begin(mark.kind as 'pen' | 'marker', first, display, fades);
  growing.add(rest);
  growing.end();
  return true;
}
