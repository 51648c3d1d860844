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

/** CSS size of the canvas: fitted into the room, never larger than its pixels; or one display pixel per device pixel. */
export function canvasSize(
  display: { width: number; height: number },
  room: { width: number; height: number },
  mode: 'fit' | 'original',
  pixelRatio: number,
): { width: number; height: number } {
  const original = { width: display.width / pixelRatio, height: display.height / pixelRatio };
  if (mode === 'original') return original;
  const scale = Math.min(1, room.width / original.width, room.height / original.height);
  return { width: original.width * scale, height: original.height * scale };
}

/** A wheel turns in steps; browsers tell pixels, lines or pages. What is less than a step is kept for the next. */
export class WheelSteps {
  #restX = 0;
  #restY = 0;

  take(deltaX: number, deltaY: number, deltaMode: number): { stepsX: number; stepsY: number } {
    const perStep = deltaMode === 0 ? 100 : deltaMode === 1 ? 3 : 1;
    this.#restX += deltaX / perStep;
    this.#restY += deltaY / perStep;
    const stepsX = Math.max(-20, Math.min(20, Math.trunc(this.#restX)));
    const stepsY = Math.max(-20, Math.min(20, Math.trunc(this.#restY)));
    this.#restX -= Math.trunc(this.#restX);
    this.#restY -= Math.trunc(this.#restY);
    return { stepsX, stepsY };
  }
}
