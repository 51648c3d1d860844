import { expect, it } from 'vitest';
import { canvasSize, displayPoint, wheelSteps } from './stage-geometry.ts';

it('maps every corner of the stage to the same corner of the display, and nothing outside of it', () => {
  const canvas = { left: 10, top: 20, width: 640, height: 400 };
  const display = { width: 1280, height: 800 };
  expect(displayPoint({ x: 10, y: 20 }, canvas, display)).toEqual({ x: 0, y: 0 });
  expect(displayPoint({ x: 649.9, y: 419.9 }, canvas, display)).toEqual({ x: 1279, y: 799 });
  expect(displayPoint({ x: 650, y: 100 }, canvas, display)).toBeUndefined();
});
it('fits a display into its room without ever enlarging it, and shows one pixel per pixel at original size', () => {
  expect(canvasSize({ width: 1280, height: 800 }, { width: 640, height: 800 }, 'fit', 1)).toEqual({
    width: 640,
    height: 400,
  });
  expect(canvasSize({ width: 100, height: 50 }, { width: 640, height: 800 }, 'fit', 1)).toEqual({
    width: 100,
    height: 50,
  });
  expect(canvasSize({ width: 1280, height: 800 }, { width: 64, height: 80 }, 1, 2)).toEqual({
    width: 640,
    height: 400,
  });
});
it('turns any wheel into steps, with the parts of a step that a smooth wheel has', () => {
  expect([wheelSteps(0, 60, 0), wheelSteps(0, -120, 0), wheelSteps(0, 6, 1), wheelSteps(0, 9_999, 2)]).toEqual([
    { stepsX: 0, stepsY: 0.6 },
    { stepsX: 0, stepsY: -1.2 },
    { stepsX: 0, stepsY: 2 },
    { stepsX: 0, stepsY: 20 },
  ]);
});
