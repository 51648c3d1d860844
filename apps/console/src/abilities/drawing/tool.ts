import { TechnicianDrawing, type ShownMark } from '@porch/client';
import type { Mark } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** What is pointed at and drawn on the picture, here and on the customer's copy. */
export const drawingTool = defineTool({
  name: 'drawing',
  begin(session) {
    const drawing = new TechnicianDrawing(session.connection);
    const marks = shallowRef<readonly ShownMark[]>([]);
    /** What is drawn with; undefined while nothing is. */
    const kind = shallowRef<Mark['kind']>();
    drawing.listeners.on('marks', (now) => (marks.value = now));
    session.connection.on('entry', () => {
      if (!session.may('draw-on-screen')) drawing.forget();
    });
    return {
      marks,
      kind,
      mayDraw: computed(() => (void session.told.value, session.may('draw-on-screen'))),
      mark: (mark: Mark) => drawing.mark(mark),
      unmark: (which: 'last' | 'all') => drawing.unmark(which),
      close: () => drawing.close(),
    };
  },
});
export type DrawingTool = ReturnType<typeof drawingTool.begin>;
