/** Where a point of the stage lies on the display. Undefined outside of it. */
export function displayPoint(
  client: { x: number; y: number },
  canvas: { left: number; top: number; width: number; height: number },
  display: { width: number; height: number },
): { x: number; y: number } | undefined {
  const x = ((client.x - canvas.left) / canvas.width) * display.width;
  const y = ((client.y - canvas.top) / canvas.height) * display.height;
  if (x < 0 || y < 0 || x >= display.width || y >= display.height) return undefined;
  return { x: Math.floor(x), y: Math.floor(y) };
}

/** The point of the display that is nearest to a place in the picture, in CSS pixels from its upper left. */
export function nearestPoint(
  at: { x: number; y: number },
  factor: number,
  display: { width: number; height: number },
): { x: number; y: number } {
  const within = (value: number, size: number) => Math.floor(Math.max(0, Math.min(size - 1, value / factor)));
  return { x: within(at.x, display.width), y: within(at.y, display.height) };
}

/** 'fit', or how many device pixels a display pixel is wide. */
export type StageScale = 'fit' | number;
/** Between these a hand can spread it. */
const LEAST_SCALE = 0.25;
const MOST_SCALE = 4;
export const boundedScale = (scale: number): number => Math.max(LEAST_SCALE, Math.min(MOST_SCALE, scale));
export const zoomSteps: readonly StageScale[] = ['fit', 0.5, 1, 1.5, 2, 3];

/** CSS size of the canvas: fitted into the room, never larger than its pixels; or so many device pixels a pixel. */
export function canvasSize(
  display: { width: number; height: number },
  room: { width: number; height: number },
  scale: StageScale,
  pixelRatio: number,
): { width: number; height: number } {
  const original = { width: display.width / pixelRatio, height: display.height / pixelRatio };
  const factor = scale === 'fit' ? Math.min(1, room.width / original.width, room.height / original.height) : scale;
  return { width: original.width * factor, height: original.height * factor };
}

/** A wheel's steps: browsers tell pixels, lines or pages. Parts of a step are kept, for programs that scroll smoothly. */
export function wheelSteps(deltaX: number, deltaY: number, deltaMode: number): { stepsX: number; stepsY: number } {
  const perStep = deltaMode === 0 ? 100 : deltaMode === 1 ? 3 : 1;
  const steps = (delta: number) => Math.max(-20, Math.min(20, Math.round((delta / perStep) * 1000) / 1000));
  return { stepsX: steps(deltaX), stepsY: steps(deltaY) };
}
