import { SAMPLE_RATE_HZ, samplesIn, type ChannelCount } from '@porch/sound';
import { PA_SAMPLE_FORMAT, type PlaybackStream, type PulseAudio, type RecordStream } from 'pulseaudio.js';

const SAMPLE_BYTES = 4;
const sampleSpec = (channels: ChannelCount) => ({
  format: PA_SAMPLE_FORMAT.FLOAT32LE,
  channels,
  rate: SAMPLE_RATE_HZ,
});
const bytesIn = (ms: number, channels: ChannelCount) => samplesIn(ms) * channels * SAMPLE_BYTES;

/** What is taken from a source, or from one program's stream, in pieces of about 10 ms. */
export async function recordFrom(
  pulse: PulseAudio,
  from: { readonly source?: string; readonly input?: number },
  channels: ChannelCount,
  take: (samples: Float32Array) => void,
  onEnd: () => void,
): Promise<{ stop(): void }> {
  const stream: RecordStream = await pulse.createRecordStream({
    sampleSpec: sampleSpec(channels),
    ...(from.source === undefined ? {} : { name: from.source }),
    ...(from.input === undefined ? {} : { directOnInputIndex: from.input }),
    fragmentSize: bytesIn(10, channels),
    adjustLatency: true,
    // A stream of another program goes where the person moves it.
    noMove: from.input !== undefined,
  });
  let isOver = false;
  const end = () => {
    if (isOver) return;
    isOver = true;
    onEnd();
  };
  stream.on('data', (bytes: Buffer) => {
    if (!isOver) take(samplesOf(bytes));
  });
  stream.on('error', end);
  stream.on('close', end);
  return {
    stop: () => {
      isOver = true;
      destroy(pulse, stream);
    },
  };
}

/** Where sound is played, by whoever writes 10 ms when 10 ms have passed. */
export class Speakers {
  readonly #pulse: PulseAudio;
  readonly #stream: PlaybackStream;
  readonly #most: number;

  private constructor(pulse: PulseAudio, stream: PlaybackStream, channels: ChannelCount) {
    this.#pulse = pulse;
    this.#stream = stream;
    this.#most = bytesIn(60, channels);
  }

  static async open(pulse: PulseAudio, channels: ChannelCount, onEnd: () => void): Promise<Speakers> {
    const stream = await pulse.createPlaybackStream({
      sampleSpec: sampleSpec(channels),
      targetLength: bytesIn(30, channels),
      minimumRequest: bytesIn(10, channels),
      preBuffering: bytesIn(20, channels),
      adjustLatency: true,
      properties: { media: { role: 'phone' } },
    });
    stream.on('error', onEnd);
    stream.on('close', onEnd);
    return new Speakers(pulse, stream, channels);
  }

  /** What would wait longer than 60 ms is left out: the clocks of two machines are never the same. */
  write(samples: Float32Array): void {
    if (this.#stream.destroyed || this.#stream._enqueued() + this.#stream.writableLength > this.#most) return;
    this.#stream.write(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
  }
  close(): void {
    destroy(this.#pulse, this.#stream);
  }
}

/** Ends a stream of a server that may be gone: then there is nothing to tell it. */
function destroy(pulse: PulseAudio, stream: PlaybackStream | RecordStream): void {
  if (pulse.sock) stream.destroy();
}

function samplesOf(bytes: Buffer): Float32Array {
  const count = Math.floor(bytes.length / SAMPLE_BYTES);
  // Copied, since a piece may begin anywhere in what was read; every machine that this runs on has little-endian floats.
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + count * SAMPLE_BYTES));
}
