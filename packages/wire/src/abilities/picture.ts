import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** What the technician prefers, as far as the line allows. */
export const PicturePreference = z.enum(['automatic', 'text-first', 'movement-first', 'least-data']);
export type PicturePreference = z.infer<typeof PicturePreference>;
export const PictureBounds = z.strictObject({
  preference: PicturePreference,
  isGrey: z.boolean(),
  mostFramesPerSecond: z.int().min(1).max(60),
  hidesWallpaper: z.boolean(),
});
export type PictureBounds = z.infer<typeof PictureBounds>;
export const defaultBounds: PictureBounds = {
  preference: 'automatic',
  isGrey: false,
  mostFramesPerSecond: 60,
  hidesWallpaper: false,
};

export const DisplayRow = z.strictObject({
  display: z.int().min(0).max(127),
  name: z.string().max(80),
  x: z.int(),
  y: z.int(),
  width: z.int().min(1),
  height: z.int().min(1),
});
export type DisplayRow = z.infer<typeof DisplayRow>;

/** What limits the picture just now, at the source. */
export const SourceLimit = z.enum(['nothing', 'their-line', 'their-computer', 'chosen']);
export type SourceLimit = z.infer<typeof SourceLimit>;

/** Technician ↔ source: keys, proofs of freshness, wishes. The picture itself goes on the screen and cursor channels. */
export const PictureMessage = z.discriminatedUnion('type', [
  /** The key of an epoch, from the source to one who may look. */
  z.strictObject({ type: z.literal('epochKey'), epoch: z.int().min(1), secret: hex(64) }),
  z.strictObject({ type: z.literal('epochTaken'), epoch: z.int().min(1) }),
  z.strictObject({ type: z.literal('challenge'), nonce: hex(16), display: z.int(), needsTable: z.boolean() }),
  z.strictObject({ type: z.literal('needKey') }),
  z.strictObject({ type: z.literal('bounds'), bounds: PictureBounds }),
  z.strictObject({ type: z.literal('displays'), displays: z.array(DisplayRow).max(16) }),
  z.strictObject({
    type: z.literal('sourceNow'),
    limit: SourceLimit,
    lineBytesPerSecond: z.number().min(0),
    capturesPerSecond: z.number().min(0),
    hasWallpaperHidden: z.boolean(),
  }),
]);
export type PictureMessage = z.infer<typeof PictureMessage>;

export const pictureChannel = defineChannel({
  name: 'picture',
  id: 7,
  line: 'interactive',
  message: PictureMessage,
  needs: { toCustomer: ['view-screen'], toDesk: ['view-screen'] },
});
