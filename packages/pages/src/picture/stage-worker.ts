import { PictureViewer } from '@porch/client';
import { inflateInPlainCode } from '@porch/screen';
import { realRandomness } from '@porch/wire';
import type { FromStageWorker, ToStageWorker } from './stage-messages.ts';

/*
 * Opens, decodes and paints one display's picture, away from the page: frames never pass through it. What a page gets is
 * where the picture stands.
 */
const scope = self as unknown as {
  postMessage(message: FromStageWorker, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToStageWorker>) => void) | null;
};
const tell = (message: FromStageWorker, transfer: Transferable[] = []) => scope.postMessage(message, transfer);

/** How often the page hears how old the picture is. */
const STANDING_MS = 500;

let canvas: OffscreenCanvas | undefined;
let context: OffscreenCanvasRenderingContext2D | undefined;
let image: ImageData | undefined;
let viewer: PictureViewer | undefined;

function begin(display: number, on: OffscreenCanvas): void {
  canvas = on;
  context = on.getContext('2d', { alpha: false }) ?? undefined;
  const made = new PictureViewer({
    now: () => performance.now(),
    random: realRandomness,
    display,
    inflate: inflateInPlainCode,
    decodePhoto,
    onPainted(rects, isNewSize) {
      const { grid, generation, newestNumber } = made.picture;
      if (!grid || !canvas) return;
      if (isNewSize || !image) {
        canvas.width = grid.width;
        canvas.height = grid.height;
        image = new ImageData(made.picture.rgba, grid.width, grid.height);
      }
      for (const { x, y, width, height } of rects) context?.putImageData(image, 0, 0, x, y, width, height);
      const { width, height } = grid;
      tell({ type: 'painted', width, height, generation, newestNumber });
    },
    onCursorShape: (shape) => tell({ type: 'cursorShape', shape }),
    onCursorAt: (x, y) => tell({ type: 'cursorAt', x, y }),
    onHandled: (bytes) => tell({ type: 'handled', bytes }),
    onResync: () => tell({ type: 'resync' }),
    onChecked: tellStanding,
    onTrouble: (trouble) => tell({ type: 'trouble', trouble }),
  });
  viewer = made;
  setInterval(tellStanding, STANDING_MS);
}

function tellStanding(): void {
  if (!viewer) return;
  const { ageMs, refused } = viewer.standing;
  tell({ type: 'standing', ageMs, refused, isComplete: viewer.picture.isComplete });
}

async function decodePhoto(jpeg: Uint8Array) {
  const bitmap = await createImageBitmap(new Blob([jpeg as BlobPart], { type: 'image/jpeg' }));
  const { width, height } = bitmap;
  const photo = new OffscreenCanvas(width, height).getContext('2d', { alpha: false, willReadFrequently: true });
  photo?.drawImage(bitmap, 0, 0);
  bitmap.close();
  return { width, height, rgba: photo?.getImageData(0, 0, width, height).data ?? new Uint8ClampedArray(0) };
}

scope.onmessage = ({ data }) => {
  switch (data.type) {
    case 'begin':
      begin(data.display, data.canvas);
      break;
    case 'key':
      viewer?.setKey(data.key);
      break;
    case 'take':
      viewer?.take(new Uint8Array(data.bytes));
      break;
    case 'challenge':
      tell({ type: 'answer', id: data.id, value: viewer?.makeChallenge() });
      break;
    case 'holds':
      tell({ type: 'answer', id: data.id, value: viewer?.holds });
      break;
    case 'forget':
      viewer?.forget();
      image = undefined;
      if (canvas) context?.clearRect(0, 0, canvas.width, canvas.height);
      break;
  }
};
