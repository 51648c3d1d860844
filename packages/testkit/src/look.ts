import { InputLease, LocalPicture, OLD_MS, WatchedPictures, TechnicianWords, type LiveConnection } from '@porch/client';
import { inflate } from '@porch/client/node';
import jpeg from 'jpeg-js';

/** How Node inflates and decodes photos, for pictures in tests. */
export const codecs = {
  inflate,
  decodePhoto: (bytes: Uint8Array) => {
    const { width, height, data } = jpeg.decode(bytes, { useTArray: true });
    return Promise.resolve({ width, height, rgba: data });
  },
};

/** One for each connection, as in a page: what one has opened nobody opens again. */
const looks = new WeakMap<LiveConnection, WatchedPictures>();
function lookOf(technician: LiveConnection): WatchedPictures {
  const look = looks.get(technician) ?? new WatchedPictures(technician);
  looks.set(technician, look);
  return look;
}

/** What a technician's page does with one display's picture, without the page. */
export function lookAt(technician: LiveConnection, display = 0, from?: number) {
  const look = lookOf(technician);
  const words = new TechnicianWords(technician);
  const picture = new LocalPicture(technician, display, codecs, from);
  const stop = look.open(picture);
  const lease = new InputLease(technician, () => picture.aim);
  return {
    look,
    words,
    picture,
    lease,
    stop,
    isComplete: () => picture.viewer.picture.isComplete,
    /** Complete, and vouched for just now. */
    isFresh: () => picture.viewer.picture.isComplete && (picture.standing.ageMs ?? Infinity) < OLD_MS,
    /** Words 0x00RRGGBB. */
    pixels: () => {
      const { rgba } = picture.viewer.picture;
      const words = new Uint32Array(rgba.buffer, rgba.byteOffset, rgba.length / 4);
      return words.map((p) => ((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255));
    },
  };
}
