import { PieceReceiver, safeFileName, SealedLine, unlessUnreadable } from '@porch/client';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { Participant } from '@porch/core';
import {
  decodeChunk,
  decodeWords,
  isPng,
  MAX_SCREENSHOT_BYTES,
  MAX_SCREENSHOT_PIXELS,
  screenshotChannel,
  WORDS_TAG,
  type ScreenshotMessage,
} from '@porch/wire';
import type { Lease } from '../consent/held.ts';
import type { HostAbility, Kit } from '../kit.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { UnderWay } from '../under-way.ts';

/** Pictures that are on their way, either way, for one technician. */
const MAX_UNDER_WAY = 4;

/** Sends pictures of a display as it is shown, hidden windows hidden, and takes what a technician made of one. */
export const screenshot: HostAbility = {
  name: 'screenshot',
  whyNot: (_permission, ports) => whyWithout(ports, 'screen', 'codecs'),
  warn: ({ words, firstName }) => words.screenshot.keepsPictures({ first: firstName }),
  begin(kit) {
    const desk = new ScreenshotDesk(kit);
    return { changed: () => desk.check(), close: () => desk.close() };
  },
};

class ScreenshotDesk {
  readonly #kit: Kit;
  readonly #line: SealedLine<ScreenshotMessage>;
  readonly #underWay: UnderWay;
  /** What comes, until it is all here. */
  readonly #coming = new Map<string, PieceReceiver>();
  /** Those that this session took: only they can be given. */
  readonly #taken = new Map<string, string>();
  readonly #off: () => void;

  constructor(kit: Kit) {
    this.#kit = kit;
    const line = new SealedLine(kit.connection, screenshotChannel);
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      permission: 'take-screenshot',
      most: MAX_UNDER_WAY,
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, screenshotId, why) => line.send(seat, { type: 'refused', screenshotId, why }),
      onEnd: (id) => {
        this.#coming.get(id)?.close();
        this.#coming.delete(id);
      },
    });
    this.#off = this.#line.listenPlain(
      (from, plain) => this.#hear(from, plain),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('take-screenshot', from.signKey),
    );
  }

  /** Ends whatever is on its way without leave any longer. */
  check(): void {
    this.#underWay.check();
  }

  close(): void {
    this.#off();
    this.#underWay.close();
  }

  #hear(from: Participant, plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (chunk && this.#underWay.heard(from, chunk.id)) this.#coming.get(chunk.id)?.take(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(screenshotChannel, plain));
    if (message?.type === 'take') this.#takeOne(from, message);
    else if (message?.type === 'give') this.#receive(from, message);
    else if (message?.type === 'want') this.#underWay.send(from, message.screenshotId, message.offset);
  }

  /** What is shown, and nothing that is not: hidden windows were covered before anything else was done with the pixels. */
  #takeOne(from: Participant, { screenshotId, display }: Extract<ScreenshotMessage, { type: 'take' }>): void {
    if (this.#taken.has(screenshotId)) return;
    if (!this.#underWay.begin(from, screenshotId)) return;
    const shown = this.#kit.shared.pixels(display);
    const { codecs } = this.#kit.ports;
    if (!shown || !codecs) return this.#underWay.refuse(from.seat, screenshotId, 'that screen is not shown just now');
    const isTooLarge = shown.width * shown.height > MAX_SCREENSHOT_PIXELS;
    const packed = isTooLarge ? undefined : codecs.deflate(rgbOf(shown.pixels));
    if (!packed || packed.length > MAX_SCREENSHOT_BYTES)
      return this.#underWay.refuse(from.seat, screenshotId, 'that screen is too large');
    const { width, height } = shown;
    this.#underWay.hold(screenshotId, packed);
    this.#taken.set(screenshotId, from.id);
    // The customer hears of it when it happens, and not when somebody keeps it.
    this.#kit.report((fact) => ({
      type: 'screenshot/tellTaken',
      screenshotId,
      participantId: from.id,
      width,
      height,
      fact,
    }));
    this.#line.send(from.seat, { type: 'taken', screenshotId, width, height, sizeBytes: packed.length });
  }

  #receive(from: Participant, message: Extract<ScreenshotMessage, { type: 'give' }>): void {
    const { screenshotId, sizeBytes } = message;
    if (this.#taken.get(screenshotId) !== from.id)
      return this.#underWay.refuse(from.seat, screenshotId, 'that screenshot was not taken here');
    this.#underWay.end(screenshotId);
    const lease = this.#underWay.begin(from, screenshotId);
    if (!lease) return;
    const coming = new PieceReceiver(
      sizeBytes,
      (offset) => this.#line.send(from.seat, { type: 'want', screenshotId, offset }),
      (png) => {
        this.#keep(from, message, png, lease).catch((error: unknown) => {
          this.#kit.log.warn({ why: String(error) }, 'a screenshot could not be kept');
          this.#underWay.refuse(from.seat, screenshotId, 'it could not be written down there');
        });
      },
      this.#kit.time,
    );
    this.#coming.set(screenshotId, coming);
  }

  async #keep(
    from: Participant,
    { screenshotId, sha256: said }: Extract<ScreenshotMessage, { type: 'give' }>,
    png: Uint8Array,
    lease: Lease,
  ): Promise<void> {
    const { files } = this.#kit.ports;
    const hash = bytesToHex(sha256(png));
    if (hash !== said || !isPng(png))
      return this.#underWay.refuse(from.seat, screenshotId, 'what arrived is no such picture');
    if (!files) return this.#underWay.refuse(from.seat, screenshotId, 'this computer keeps no files');
    if (!lease.isRunning) return this.#underWay.refuse(from.seat, screenshotId, 'the customer has not allowed it');
    const name = safeFileName(`Screenshot ${screenshotId.slice(0, 8)}.png`);
    const picture = { name, sizeBytes: png.length, sha256: hash, isFolder: false };
    const sink = await files.sinkFor(picture, { ifThere: 'keep-both', refusedKinds: [] });
    if (!lease.isRunning) {
      await sink.discard();
      return this.#underWay.refuse(from.seat, screenshotId, 'the customer has not allowed it');
    }
    await sink.write(png.subarray(sink.begun?.bytes ?? 0));
    await sink.finish();
    this.#underWay.end(screenshotId);
    this.#kit.report((fact) => ({ type: 'screenshot/tellKept', screenshotId, sha256: hash, fact }));
    this.#line.send(from.seat, { type: 'given', screenshotId });
  }
}

/** R G B rows of words 0x00RRGGBB. */
function rgbOf(pixels: Uint32Array): Uint8Array {
  const rgb = new Uint8Array(pixels.length * 3);
  for (let i = 0, to = 0; i < pixels.length; i++) {
    const word = pixels[i] ?? 0;
    rgb[to++] = (word >> 16) & 255;
    rgb[to++] = (word >> 8) & 255;
    rgb[to++] = word & 255;
  }
  return rgb;
}
