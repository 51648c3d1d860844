import { FRAME_SAMPLES, SAMPLE_RATE_HZ, samplesIn, type ChannelCount } from './format.ts';

/** What waits before it is heard: as little as an even line needs, and no more than a talk stands. */
const LINE_DELAY_MS = 40;
const MOST_DELAY_MS = 200;
/** Each time that it ran dry in the middle of something. */
const LONGER_MS = 20;
/** And back again, after so long without. */
const SHORTER_MS = 10;
const CALM_MS = 10_000;
/** What more waits than this was held up somewhere: the oldest of it is nobody's any longer. */
const MOST_WAITING_MS = 400;
/** What comes so soon after it ran dry belongs to the same. */
const SAME_SOUND_MS = 500;
/** Edges are bent, or they would be heard as clicks. */
const EDGE_SAMPLES = samplesIn(2.5);
/** More missing frames than these are a gap, and not kept in time. */
const MOST_FILLED_FRAMES = 5;
const CAPACITY_SAMPLES = samplesIn(1_000);

/**
 * What one speaker says, from when it comes, in order but unevenly, until it is heard evenly. Time is what is asked of it:
 * 48,000 samples are a second.
 */
export class Playout {
  readonly #channels: ChannelCount;
  readonly #ring: Float32Array;
  /** In samples of each channel, since the beginning. */
  #written = 0;
  #read = 0;
  #isPlaying = false;
  readonly #leastDelayMs: number;
  #delayMs: number;
  /** How long what waits has been waiting to begin. */
  #waited = 0;
  #sinceDry = Infinity;
  #sinceChange = 0;
  #leastWaiting = Infinity;
  #fadeIn = 0;

  /** `leastDelayMs`: what it waits at least; on one computer less will do than over a line. */
  constructor(channels: ChannelCount, leastDelayMs = LINE_DELAY_MS) {
    this.#channels = channels;
    this.#leastDelayMs = this.#delayMs = leastDelayMs;
    this.#ring = new Float32Array(CAPACITY_SAMPLES * channels);
  }

  get waitingMs(): number {
    return (this.#waiting * 1000) / SAMPLE_RATE_HZ;
  }
  /** What it means to keep waiting now. */
  get delayMs(): number {
    return this.#delayMs;
  }

  /** Samples of all its channels; `lost` frames before them never came. */
  add(samples: Float32Array, lost = 0): void {
    if (this.#isPlaying && lost > 0 && lost <= MOST_FILLED_FRAMES)
      this.#write(new Float32Array(lost * FRAME_SAMPLES * this.#channels));
    if (!this.#isPlaying && this.#sinceDry < samplesIn(SAME_SOUND_MS)) {
      this.#delayMs = Math.min(MOST_DELAY_MS, this.#delayMs + LONGER_MS);
      this.#sinceDry = Infinity;
      this.#sinceChange = 0;
    }
    this.#write(samples);
    if (this.#waiting > samplesIn(MOST_WAITING_MS)) this.#skipTo(samplesIn(this.#delayMs));
  }

  /** Adds the next samples to what others say, for so many channels. Answers how loud it was. */
  mixInto(out: Float32Array, outChannels: ChannelCount, gain = 1): number {
    const count = out.length / outChannels;
    this.#begin(count);
    if (!this.#isPlaying) {
      this.#sinceDry += count;
      return 0;
    }
    const there = Math.min(count, this.#waiting);
    // With less than an edge left the next piece could not be bent any more.
    const isLast = this.#waiting < count + EDGE_SAMPLES;
    let peak = 0;
    const ring = this.#ring;
    const isMono = this.#channels === 1;
    let at = (this.#read * this.#channels) % ring.length;
    for (let i = 0; i < there; i++) {
      const edge = isLast ? Math.min(1, (there - i) / EDGE_SAMPLES) : 1;
      const bend = this.#fadeIn < EDGE_SAMPLES ? this.#fadeIn++ / EDGE_SAMPLES : 1;
      const share = Math.min(edge, bend);
      const left = (ring[at] ?? 0) * share;
      const right = isMono ? left : (ring[at + 1] ?? 0) * share;
      at += this.#channels;
      if (at === ring.length) at = 0;
      peak = Math.max(peak, Math.abs(left), Math.abs(right));
      if (outChannels === 1) out[i] = (out[i] ?? 0) + ((left + right) / 2) * gain;
      else {
        out[2 * i] = (out[2 * i] ?? 0) + left * gain;
        out[2 * i + 1] = (out[2 * i + 1] ?? 0) + right * gain;
      }
    }
    this.#read = isLast ? this.#written : this.#read + there;
    if (isLast) this.#runDry();
    else this.#keepShort(count);
    return Math.min(1, peak);
  }

  get #waiting(): number {
    return this.#written - this.#read;
  }

  /** Something short is heard, too: it waits as long as something long would. */
  #begin(count: number): void {
    if (this.#isPlaying || this.#waiting === 0) return;
    const delay = samplesIn(this.#delayMs);
    if (this.#waiting < delay && this.#waited + count < delay) {
      this.#waited += count;
      return;
    }
    this.#isPlaying = true;
    this.#waited = 0;
    this.#fadeIn = 0;
    this.#leastWaiting = Infinity;
  }
  #runDry(): void {
    this.#isPlaying = false;
    this.#sinceDry = 0;
  }

  /** What was held up once need not be late for ever. */
  #keepShort(count: number): void {
    this.#leastWaiting = Math.min(this.#leastWaiting, this.#waiting);
    this.#sinceChange += count;
    if (this.#sinceChange < samplesIn(CALM_MS)) return;
    this.#sinceChange = 0;
    this.#delayMs = Math.max(this.#leastDelayMs, this.#delayMs - SHORTER_MS);
    if (this.#leastWaiting > samplesIn(this.#delayMs)) this.#skipTo(samplesIn(this.#delayMs));
    this.#leastWaiting = Infinity;
  }
  #skipTo(waiting: number): void {
    this.#read = Math.max(this.#read, this.#written - waiting);
    this.#fadeIn = 0;
  }

  #write(samples: Float32Array): void {
    const ring = this.#ring;
    const count = Math.min(CAPACITY_SAMPLES, Math.floor(samples.length / this.#channels));
    let at = (this.#written * this.#channels) % ring.length;
    for (let i = 0; i < count * this.#channels; i++) {
      const value = samples[i] ?? 0;
      ring[at] = Number.isFinite(value) ? value : 0;
      if (++at === ring.length) at = 0;
    }
    this.#written += count;
    this.#read = Math.max(this.#read, this.#written - CAPACITY_SAMPLES);
  }
}
