/* How a picture in a window is moved about without a drag: keysyms of the X11 protocol, and its buttons of a wheel. */
export const [ESCAPE, SPACE, ENTER] = [0xff1b, 0x20, 0xff0d];
export const arrows: Readonly<Record<number, readonly [number, number]>> = {
  0xff51: [-1, 0],
  0xff52: [0, -1],
  0xff53: [1, 0],
  0xff54: [0, 1],
};
/** The wheel's buttons of the X11 protocol: up, down, left, right. */
export const wheel: Readonly<Record<number, readonly [number, number]>> = {
  4: [0, -1],
  5: [0, 1],
  6: [-1, 0],
  7: [1, 0],
};
