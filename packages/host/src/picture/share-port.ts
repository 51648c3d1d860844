import type { Deflate } from '@porch/screen';
import type { OpenContent, PictureMessage } from '@porch/wire';

/** What sharing a screen needs of the live connection, wherever that runs. */
export interface SharePort {
  readonly sessionId: string;
  readonly seat: number;
  readonly sourceStart: string;
  /** The last epoch of what this start showed before: those that follow are higher. */
  readonly lastEpoch: number;
  readonly hasRoom: boolean;
  readonly messageBytes: number;
  readonly bytesPerSecond: number;
  /** Seals and sends. False when the line is gone. */
  send(content: OpenContent): boolean;
  /** Sealed words to one who looks. False when the line is gone. */
  tell(seat: number, message: PictureMessage): boolean;
}

/** What a platform brings along to find and encode changes. */
export interface SourceCodecs {
  readonly deflate: Deflate;
  /** Baseline JPEG (ITU-T T.81) of R G B pixels; undefined where there is no encoder: then only more bytes are sent. */
  readonly encodeJpeg:
    ((rgb: Uint8Array, width: number, height: number, quality: number) => Promise<Uint8Array>) | undefined;
}

/** The same, where messages can be sealed at once. */
export interface SealingCodecs extends SourceCodecs {
  /** A whole message, sealed with AES-256-GCM as `content.ts` of the wire draws it. */
  readonly seal: (content: OpenContent) => Uint8Array;
}
