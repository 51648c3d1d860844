import { FRAME_SAMPLES, NOTHING_NEW_BYTES, SAMPLE_RATE_HZ, type ChannelCount } from '@porch/sound';
import { MAX_OPUS_BYTES } from '@porch/wire';
import loadOpus, { type OpusHandler, type OpusModule } from 'opusscript/build/opusscript_native_wasm.js';
import { wasmBinary } from './opus-wasm.ts';

/** Of opus_defines.h. */
const [SET_BITRATE, SET_DTX] = [4002, 4016];
const APPLICATION = { voice: 2048, programs: 2049 } as const;
/** A packet holds no more than 60 ms for this decoder. */
const MAX_DECODED_SAMPLES = 3 * FRAME_SAMPLES;
const FULL_SCALE = 32_767;

let loaded: OpusModule | undefined;
const opusModule = (): OpusModule => (loaded ??= loadOpus({ wasmBinary }));

/**
 * One coder with buffers of its own. The package's own class reaches its buffers at twice their addresses, so that two of
 * them write into each other; therefore its module is used directly.
 */
class OpusCoder {
  readonly #module = opusModule();
  readonly handler: OpusHandler;
  readonly samplesAt: number;
  readonly packetAt: number;
  #isClosed = false;

  constructor(channels: ChannelCount, kind: keyof typeof APPLICATION) {
    this.handler = new this.#module.OpusScriptHandler(SAMPLE_RATE_HZ, channels, APPLICATION[kind]);
    // Two bytes a sample, and two bytes for each of them.
    this.samplesAt = this.#module._malloc(MAX_DECODED_SAMPLES * channels * 4);
    this.packetAt = this.#module._malloc(MAX_OPUS_BYTES * 3);
  }

  /** Taken anew each time: the memory behind it may have grown. */
  samples(count: number): Uint16Array {
    return this.#module.HEAPU16.subarray(this.samplesAt / 2, this.samplesAt / 2 + count * 2);
  }
  packet(sizeBytes: number): Uint8Array {
    return this.#module.HEAPU8.subarray(this.packetAt, this.packetAt + sizeBytes);
  }
  close(): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#module.OpusScriptHandler.destroy_handler(this.handler);
    this.#module._free(this.samplesAt);
    this.#module._free(this.packetAt);
  }
}

/** Frames of 20 ms to packets of Opus (RFC 6716). */
export class OpusEncoder {
  readonly #coder: OpusCoder;

  constructor(channels: ChannelCount, kind: 'programs' | 'voice') {
    this.#coder = new OpusCoder(channels, kind);
    if (kind === 'voice') this.#coder.handler._encoder_ctl(SET_DTX, 1);
  }

  setBitrate(bitsPerSecond: number): void {
    this.#coder.handler._encoder_ctl(SET_BITRATE, bitsPerSecond);
  }

  /** Undefined for what need not be sent. */
  encode(frame: Float32Array): Uint8Array | undefined {
    const { handler, samplesAt, packetAt } = this.#coder;
    const places = this.#coder.samples(frame.length);
    for (let i = 0; i < frame.length; i++) {
      const value = Math.round(Math.max(-1, Math.min(1, frame[i] ?? 0)) * FULL_SCALE);
      places[2 * i] = value & 0xff;
      places[2 * i + 1] = (value >> 8) & 0xff;
    }
    const sizeBytes = handler._encode(samplesAt, frame.length * 2, packetAt, FRAME_SAMPLES);
    if (sizeBytes < 0) throw new Error(`Opus could not encode a frame: ${sizeBytes}`);
    return sizeBytes > NOTHING_NEW_BYTES ? this.#coder.packet(sizeBytes).slice() : undefined;
  }

  close(): void {
    this.#coder.close();
  }
}

export class OpusDecoder {
  readonly #coder: OpusCoder;
  readonly #channels: ChannelCount;

  constructor(channels: ChannelCount) {
    this.#coder = new OpusCoder(channels, 'programs');
    this.#channels = channels;
  }

  /** Undefined for what is no packet of 20 ms: whoever sends it is not believed. */
  decode(packet: Uint8Array): Float32Array | undefined {
    if (packet.length === 0 || packet.length > MAX_OPUS_BYTES) return undefined;
    const { handler, samplesAt, packetAt } = this.#coder;
    this.#coder.packet(packet.length).set(packet);
    const frames = handler._decode(packetAt, packet.length, samplesAt);
    if (frames !== FRAME_SAMPLES) return undefined;
    const count = FRAME_SAMPLES * this.#channels;
    const places = this.#coder.samples(count);
    return Float32Array.from({ length: count }, (_, i) => {
      const value = (places[2 * i] ?? 0) | ((places[2 * i + 1] ?? 0) << 8);
      return (value > FULL_SCALE ? value - 65_536 : value) / FULL_SCALE;
    });
  }

  close(): void {
    this.#coder.close();
  }
}
