import { TechnicianDrawing, type GrowingMark, type ShownMark } from '@porch/client';
import { consentHolderOf } from '@porch/core';
import type { Mark } from '@porch/wire';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';
import { pictureTool } from '../picture/tool.ts';

export type DrawingKind = Mark['kind'];

/** What is pointed at and drawn, over the picture here until the picture itself has it. */
export const drawingTool = defineTool({
  name: 'drawing',
  begin(session) {
    const picture = session.tool(pictureTool);
    const drawing = new TechnicianDrawing(session.connection, (display) => picture.aimAt(display).update);
    const marks = shallowRef<readonly ShownMark[]>([]);
    /** What is drawn with; undefined while nothing is. */
    const kind = shallowRef<DrawingKind>();
    const fades = shallowRef(false);
    drawing.listeners.on('marks', (now) => (marks.value = now));
    session.connection.on('entry', () => {
      if (!session.may('draw-on-screen')) drawing.forget();
    });
    return {
      marks,
      kind,
      fades,
      mayDraw: computed(() => (void session.told.value, session.may('draw-on-screen'))),
      /** Whether what is drawn lies on their screen itself, or on a copy in their page. */
      isOnScreen: computed(() => consentHolderOf(session.state.value)?.part === 'doorstep'),
      mark: (mark: Mark, display: number) => drawing.mark(mark, display, fades.value),
      begin: (what: 'pen' | 'marker', first: Mark['points'][number], display: number): GrowingMark =>
        drawing.begin(what, first, display, fades.value),
      unmark: (which: 'last' | 'all' | 'everybodys') => drawing.unmark(which),
      close: () => drawing.close(),
    };
  },
});
export type DrawingTool = ReturnType<typeof drawingTool.begin>;
