/** Thrown for bytes that are no picture; never anything worse, whatever the bytes. */
export class PictureError extends Error {
  override readonly name = 'PictureError';
}
