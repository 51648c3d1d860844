/** What one scene costs: bytes and milliseconds of an update. */
export interface SceneCost {
  readonly scene: string;
  readonly kind: string;
  readonly frames: number;
  readonly bytesPerUpdate: number;
  readonly bytesP95: number;
  /** Take over, find changes and moves, encode, seal. */
  readonly sourceMsMedian: number;
  readonly sourceMsMean: number;
  readonly sourceMsP95: number;
  readonly decodeMsMean: number;
  readonly isExact: boolean;
  readonly yardsticks: readonly { name: string; bytesPerFrame: number; msPerFrame: number }[];
}
