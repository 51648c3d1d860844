import { PieceReceiver, safeFileName, sendPieces, SealedLine, unlessUnreadable } from '@porch/client';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { Participant } from '@porch/core';
import {
  decodeChunk,
  decodeWords,
  encodeChunk,
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

/** Pictures that are on their way, either way, for one technician. */
const MAX_UNDER_WAY = 4;
/** Whoever asks for nothing of one for this long does not want it any longer. */
const STALE_MS = 60_000;

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

interface UnderWay {
  readonly lease: Lease;
  readonly seat: number;
  heardAtMs: number;
  /** What is sent, until it is all there. */
  readonly packed?: Uint8Array;
  /** What comes, until it is all here. */
  readonly coming?: PieceReceiver;
}

class ScreenshotDesk {
  readonly #kit: Kit;
  readonly #line: SealedLine<ScreenshotMessage>;
  readonly #underWay = new Map<string, UnderWay>();
  /** Those that this session took: only they can be given. */
  readonly #taken = new Map<string, string>();
  readonly #off: () => void;

  constructor(kit: Kit) {
    this.#kit = kit;
    this.#line = new SealedLine(kit.connection, screenshotChannel);
    this.#off = this.#line.listenPlain(
      (from, plain) => this.#hear(from, plain),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('take-screenshot', from.signKey),
    );
  }

  /** Ends whatever is on its way without leave any longer. */
  check(): void {
    for (const [id, { lease }] of this.#underWay) if (lease.state.name === 'over') this.#end(id);
  }

  close(): void {
    this.#off();
    for (const id of [...this.#underWay.keys()]) this.#end(id);
  }

  #end(id: string): void {
    this.#underWay.get(id)?.coming?.close();
    this.#underWay.delete(id);
  }

  #hear(from: Participant, plain: Uint8Array): void {
    if (plain[0] !== WORDS_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      const known = chunk && this.#underWay.get(chunk.id);
      if (!chunk || known?.seat !== from.seat || !known.lease.isRunning) return;
      known.heardAtMs = this.#kit.time.nowMs();
      known.coming?.take(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(screenshotChannel, plain));
    if (message?.type === 'take') this.#takeOne(from, message);
    else if (message?.type === 'give') this.#receive(from, message);
    else if (message?.type === 'want') this.#send(from, message);
  }

  #refuse(seat: number, screenshotId: string, why: string): void {
    this.#end(screenshotId);
    this.#line.send(seat, { type: 'refused', screenshotId, why: why.slice(0, 120) });
  }

  /** One more than a person asks for at once is somebody who floods. */
  #mayBegin(from: Participant, screenshotId: string): Lease | undefined {
    const nowMs = this.#kit.time.nowMs();
    for (const [id, { heardAtMs }] of this.#underWay) if (nowMs - heardAtMs > STALE_MS) this.#end(id);
    const theirs = [...this.#underWay.values()].filter(({ seat }) => seat === from.seat);
    const lease = this.#kit.held.during('take-screenshot', from.signKey);
    if (this.#underWay.has(screenshotId)) return undefined;
    if (lease.state.name === 'paused') this.#refuse(from.seat, screenshotId, lease.state.why);
    else if (!lease.isRunning) this.#refuse(from.seat, screenshotId, 'the customer has not allowed it');
    else if (theirs.length >= MAX_UNDER_WAY) this.#refuse(from.seat, screenshotId, 'too many are on their way');
    else return lease;
    return undefined;
  }

  /** What is shown, and nothing that is not: hidden windows were covered before anything else was done with the pixels. */
  #takeOne(from: Participant, { screenshotId, display }: Extract<ScreenshotMessage, { type: 'take' }>): void {
    if (this.#taken.has(screenshotId)) return;
    const lease = this.#mayBegin(from, screenshotId);
    if (!lease) return;
    const shown = this.#kit.shared.pixels(display);
    const { codecs } = this.#kit.ports;
    if (!shown || !codecs) return this.#refuse(from.seat, screenshotId, 'that screen is not shown just now');
    const isTooLarge = shown.width * shown.height > MAX_SCREENSHOT_PIXELS;
    const packed = isTooLarge ? undefined : codecs.deflate(rgbOf(shown.pixels));
    if (!packed || packed.length > MAX_SCREENSHOT_BYTES)
      return this.#refuse(from.seat, screenshotId, 'that screen is too large');
    const { width, height } = shown;
    this.#underWay.set(screenshotId, { lease, seat: from.seat, heardAtMs: this.#kit.time.nowMs(), packed });
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

  #send(from: Participant, { screenshotId, offset }: Extract<ScreenshotMessage, { type: 'want' }>): void {
    const known = this.#underWay.get(screenshotId);
    if (known?.seat !== from.seat || !known.packed || offset > known.packed.length) return;
    const { lease, packed } = known;
    known.heardAtMs = this.#kit.time.nowMs();
    // Whoever asks for what is behind the end has everything.
    if (offset === packed.length) return this.#end(screenshotId);
    sendPieces(
      packed,
      screenshotId,
      offset,
      (chunk) => lease.isRunning && this.#line.sendPlain(from.seat, encodeChunk(chunk), () => lease.isRunning),
    );
  }

  #receive(from: Participant, message: Extract<ScreenshotMessage, { type: 'give' }>): void {
    const { screenshotId, sizeBytes } = message;
    this.#end(screenshotId);
    if (this.#taken.get(screenshotId) !== from.id)
      return this.#refuse(from.seat, screenshotId, 'that screenshot was not taken here');
    const lease = this.#mayBegin(from, screenshotId);
    if (!lease) return;
    const coming = new PieceReceiver(
      sizeBytes,
      (offset) => this.#line.send(from.seat, { type: 'want', screenshotId, offset }),
      (png) => {
        this.#keep(from, message, png, lease).catch((error: unknown) => {
          this.#kit.log.warn({ why: String(error) }, 'a screenshot could not be kept');
          this.#refuse(from.seat, screenshotId, 'it could not be written down there');
        });
      },
      this.#kit.time,
    );
    this.#underWay.set(screenshotId, { lease, seat: from.seat, heardAtMs: this.#kit.time.nowMs(), coming });
  }

  async #keep(
    from: Participant,
    { screenshotId, sha256: said }: Extract<ScreenshotMessage, { type: 'give' }>,
    png: Uint8Array,
    lease: Lease,
  ): Promise<void> {
    const { files } = this.#kit.ports;
    const hash = bytesToHex(sha256(png));
    if (hash !== said || !isPng(png)) return this.#refuse(from.seat, screenshotId, 'what arrived is no such picture');
    if (!files) return this.#refuse(from.seat, screenshotId, 'this computer keeps no files');
    if (!lease.isRunning) return this.#refuse(from.seat, screenshotId, 'the customer has not allowed it');
    const sink = await files.sinkFor(safeFileName(`Screenshot ${screenshotId.slice(0, 8)}.png`));
    if (!lease.isRunning) {
      await sink.discard();
      return this.#refuse(from.seat, screenshotId, 'the customer has not allowed it');
    }
    await sink.write(png);
    await sink.finish();
    this.#end(screenshotId);
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
