import { ScreenShare, type SourceCodecs } from '@porch/host';
import { deflateInPlainCode } from '@porch/screen';
import { decodeFrame } from '@porch/wire';
import { FrameScreen } from './frame-screen.ts';
import type { FromShareWorker, ToShareWorker } from './share-messages.ts';
import { WorkerPort } from './worker-port.ts';

/*
 * The picture of a page that shows something: the same finding of changes, encoding and sealing as in Doorstep, away
 * from the page. The page keeps the consent and the line.
 */
const scope = self as unknown as {
  postMessage(message: FromShareWorker, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToShareWorker>) => void) | null;
};
const post = (message: FromShareWorker, transfer: Transferable[] = []) => scope.postMessage(message, transfer);
const trouble = (error: unknown, what = 'the picture cannot be taken') =>
  post({ type: 'trouble', what: `${what}: ${String(error)}` });

const codecs: SourceCodecs = { deflate: deflateInPlainCode, encodeJpeg };
let share: ScreenShare | undefined;
let port: WorkerPort | undefined;

async function encodeJpeg(rgb: Uint8Array, width: number, height: number, quality: number): Promise<Uint8Array> {
  const image = new ImageData(width, height);
  for (let from = 0, to = 0; from < rgb.length; from += 3, to += 4) {
    image.data[to] = rgb[from] ?? 0;
    image.data[to + 1] = rgb[from + 1] ?? 0;
    image.data[to + 2] = rgb[from + 2] ?? 0;
    image.data[to + 3] = 255;
  }
  const canvas = new OffscreenCanvas(width, height);
  canvas.getContext('2d')?.putImageData(image, 0, 0);
  const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality: quality / 100 });
  return new Uint8Array(await blob.arrayBuffer());
}

scope.onmessage = ({ data }) => {
  switch (data.type) {
    case 'begin':
      port = new WorkerPort(data, post);
      share = new ScreenShare(port, new FrameScreen(data.name, data.frames, trouble), codecs, trouble);
      break;
    case 'watchers':
      share?.setWatchers(data.watchers).catch(trouble);
      break;
    case 'look':
      share?.take(data.seat, data.message);
      break;
    case 'relay':
      share?.handleRelay(decodeFrame(data.bytes));
      break;
    case 'room':
      port?.setRoom(data.room);
      share?.pump();
      break;
  }
};
