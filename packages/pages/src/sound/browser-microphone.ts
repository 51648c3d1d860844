import type { Capture, Captured } from '@porch/client';
import { FRAME_MS, NOTHING_NEW_BYTES, SAMPLE_RATE_HZ, SilenceGate } from '@porch/sound';

const FIRST_BITS = 32_000;
/** Encoding that falls so far behind is not caught up with. */
const MOST_WAITING = 25;

/** Opus in WebCodecs, as its registration names it. */
interface OpusConfig extends AudioEncoderConfig {
  readonly opus: { readonly frameDuration: number; readonly application: 'voip'; readonly usedtx: boolean };
}

/** What is said in front of this page: without its own echo, as far as the browser can take it out. */
export class BrowserMicrophone implements Capture {
  readonly #take: (captured: Captured) => void;
  readonly #onTrouble: (error: unknown) => void;
  readonly #gate = new SilenceGate();
  #encoder: AudioEncoder | undefined;
  #bits = FIRST_BITS;
  #stream: MediaStream | undefined;
  #nodes: AudioNode[] = [];
  #isMuted = false;
  #isStopped = false;
  #silentFrames = 0;
  #timestampUs = 0;
  /** Of each frame that is being encoded. */
  #waiting: { readonly silentFrames: number; readonly peak: number }[] = [];

  constructor(
    context: () => Promise<AudioContext>,
    take: (captured: Captured) => void,
    onGone: () => void,
    onTrouble: (error: unknown) => void,
  ) {
    this.#take = take;
    this.#onTrouble = onTrouble;
    this.#open(context, onGone).catch((error: unknown) => {
      // There is none, or the person does not let us: both are "without a microphone".
      onTrouble(error);
      if (!this.#isStopped) onGone();
    });
  }

  setBitrate(bitsPerSecond: number): void {
    this.#bits = bitsPerSecond;
    if (this.#encoder?.state === 'configured') this.#encoder.configure(this.#config);
  }
  setMuted(isMuted: boolean): void {
    this.#isMuted = isMuted;
    for (const track of this.#stream?.getTracks() ?? []) track.enabled = !isMuted;
  }
  stop(): void {
    this.#isStopped = true;
    for (const node of this.#nodes) node.disconnect();
    for (const track of this.#stream?.getTracks() ?? []) track.stop();
    if (this.#encoder?.state === 'configured') this.#encoder.close();
  }

  get #config(): OpusConfig {
    return {
      codec: 'opus',
      sampleRate: SAMPLE_RATE_HZ,
      numberOfChannels: 1,
      bitrate: this.#bits,
      opus: { frameDuration: FRAME_MS * 1_000, application: 'voip', usedtx: true },
    };
  }

  async #open(context: () => Promise<AudioContext>, onGone: () => void): Promise<void> {
    const stream = await navigator.mediaDevices.getUserMedia({
      audio: { echoCancellation: true, noiseSuppression: true, autoGainControl: true, channelCount: 1 },
    });
    this.#stream = stream;
    if (this.#isStopped) return this.stop();
    this.setMuted(this.#isMuted);
    // Pulled out of its socket, or taken away in the browser.
    stream.getAudioTracks()[0]?.addEventListener('ended', () => this.#isStopped || onGone());
    const audio = await context();
    if (this.#isStopped) return;
    const encoder = new AudioEncoder({
      output: (chunk) => this.#encoded(chunk),
      error: (error) => this.#onTrouble(error),
    });
    encoder.configure(this.#config);
    this.#encoder = encoder;
    const source = audio.createMediaStreamSource(stream);
    const worklet = new AudioWorkletNode(audio, 'porch-microphone', { numberOfOutputs: 0 });
    worklet.port.onmessage = ({ data }: MessageEvent<Float32Array<ArrayBuffer>>) => this.#frame(data);
    source.connect(worklet);
    this.#nodes = [source, worklet];
  }

  #frame(frame: Float32Array<ArrayBuffer>): void {
    const encoder = this.#encoder;
    const { isSilent, peak } = this.#gate.take(frame);
    if (isSilent || this.#isMuted || encoder?.state !== 'configured' || encoder.encodeQueueSize > MOST_WAITING) {
      this.#silentFrames++;
      return;
    }
    const data = new AudioData({
      format: 'f32-planar',
      sampleRate: SAMPLE_RATE_HZ,
      numberOfFrames: frame.length,
      numberOfChannels: 1,
      timestamp: this.#timestampUs,
      data: frame,
    });
    this.#timestampUs += FRAME_MS * 1_000;
    this.#waiting.push({ silentFrames: this.#silentFrames, peak });
    this.#silentFrames = 0;
    encoder.encode(data);
    data.close();
  }

  #encoded(chunk: EncodedAudioChunk): void {
    const { silentFrames = 0, peak = 0 } = this.#waiting.shift() ?? {};
    if (this.#isStopped || this.#isMuted || chunk.byteLength <= NOTHING_NEW_BYTES) {
      this.#silentFrames += silentFrames + 1;
      return;
    }
    const opus = new Uint8Array(chunk.byteLength);
    chunk.copyTo(opus);
    this.#take({ channels: 1, opus, silentFrames, peak });
  }
}
