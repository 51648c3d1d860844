/* What the system's own tool for Video4Linux2 devices (v4l2-ctl of v4l-utils) says of one, as text. */

export interface CameraSize {
  readonly width: number;
  readonly height: number;
}

/** The sizes in which a camera gives JPEG by itself, smallest first. Empty: it gives none, or is no camera. */
export function jpegSizes(listing: string): CameraSize[] {
  const sizes = new Map<string, CameraSize>();
  let isJpeg = false;
  for (const line of listing.split('\n')) {
    const format = /^\s*\[\d+\]: '(.{4})'/.exec(line);
    if (format) isJpeg = format[1] === 'MJPG' || format[1] === 'JPEG';
    const size = /^\s*Size: Discrete (\d{1,5})x(\d{1,5})\s*$/.exec(line);
    if (!isJpeg || !size) continue;
    const [width, height] = [Number(size[1]), Number(size[2])];
    if (width && height) sizes.set(`${width}x${height}`, { width, height });
  }
  return [...sizes.values()].sort((a, b) => a.width * a.height - b.width * b.height);
}

/** The largest whose longer side is at most so long, or the smallest there is. */
export const sizeFor = (sizes: readonly CameraSize[], longestPixels: number): CameraSize | undefined =>
  sizes.filter(({ width, height }) => Math.max(width, height) <= longestPixels).at(-1) ?? sizes[0];

/** Whether it has a lamp that can stay on: the flash class of controls, `led_mode`, of which 2 is that. */
export const hasLamp = (controls: string): boolean => {
  const mode = /^\s*led_mode\s.*\bmax=(\d+)/m.exec(controls);
  return mode !== null && Number(mode[1]) >= 2;
};
export const LAMP_OFF = 'led_mode=0';
export const LAMP_ON = 'led_mode=2';
