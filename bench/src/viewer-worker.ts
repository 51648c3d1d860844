import { inflateInPlainCode, ViewerPicture, type ReceivedUnit } from '@porch/screen';

/*
 * In a worker of Chromium: decodes and paints rounds of messages as a viewer does, and the same rectangles as PNG through
 * createImageBitmap, in turns. Milliseconds of each round go back.
 */
export interface ViewerRounds {
  readonly width: number;
  readonly height: number;
  /** The first is the whole picture, and is not measured. */
  readonly rounds: readonly {
    units: readonly ReceivedUnit[];
    pngs: readonly { x: number; y: number; png: Uint8Array }[];
  }[];
}
const scope = self as unknown as {
  onmessage: ((event: MessageEvent<ViewerRounds>) => void) | null;
  postMessage(message: unknown): void;
};

async function measure({ width, height, rounds }: ViewerRounds): Promise<{ ours: number[]; theirs: number[] }> {
  const ours: number[] = [];
  const theirs: number[] = [];
  const [mine, other] = [0, 1].map(() => new OffscreenCanvas(width, height).getContext('2d', { alpha: false }));
  if (!mine || !other) throw new Error('no canvas');
  const viewer = new ViewerPicture(inflateInPlainCode, 'wasm');
  let image: ImageData | undefined;
  for (const [n, { units, pngs }] of rounds.entries()) {
    const startedAt = performance.now();
    for (const unit of units) {
      const { rects } = viewer.take(unit);
      image ??= new ImageData(viewer.rgba, width, height);
      for (const r of rects) mine.putImageData(image, 0, 0, r.x, r.y, r.width, r.height);
    }
    const betweenAt = performance.now();
    const bitmaps = await Promise.all(
      pngs.map(async ({ x, y, png }) => ({ x, y, bitmap: await createImageBitmap(new Blob([png as BlobPart])) })),
    );
    for (const { x, y, bitmap } of bitmaps) {
      other.drawImage(bitmap, x, y);
      bitmap.close();
    }
    if (n > 0) {
      ours.push(betweenAt - startedAt);
      theirs.push(performance.now() - betweenAt);
    }
  }
  const [a, b] = [mine, other].map((on) => on.getImageData(0, 0, width, height).data);
  if (!a?.every((value, i) => value === b?.[i])) throw new Error('the two pictures differ');
  return { ours, theirs };
}

scope.onmessage = ({ data }) => {
  measure(data).then(
    (times) => scope.postMessage(times),
    (error: unknown) => scope.postMessage({ trouble: String(error) }),
  );
};
