import { gridFor, tileRect, TileSource, type ReceivedUnit } from '@porch/screen';
import { PNG } from 'pngjs';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { dist } from './bench-house.ts';
import { openChromium } from './chromium.ts';
import { quantile } from './numbers.ts';
import { drawnScenes, recordedScenes, type Scene } from './scene.ts';
import type { ViewerRounds } from './viewer-worker.ts';

const CHANGED_TILES = 280;
const ROUNDS = 40;
const MESSAGE_BYTES = 64 * 1024;
const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });

interface Times {
  readonly ours: number[];
  readonly theirs: number[];
}

/** What a viewer's worker needs for 280 changed tiles, beside a PNG for each rectangle through createImageBitmap. */
export async function viewerBench(options: { corpus?: string; json?: boolean }): Promise<void> {
  const scenes = options.corpus ? recordedScenes(options.corpus) : drawnScenes();
  const wanted = scenes.filter((scene) => scene.kind === 'web' || scene.kind === 'scrolling');
  const browser = await openChromium();
  const rows = [];
  try {
    const page = await browser.newPage();
    const code = readFileSync(join(dist, 'bench-viewer.js'), 'utf8');
    for (const scene of wanted) {
      const times = (await page.evaluate(runInWorker, { code, rounds: packed(roundsOf(scene)) })) as Times;
      const [ours, theirs] = [times.ours, times.theirs].map((t) => [quantile(t, 0.5) ?? 0, quantile(t, 0.95) ?? 0]) as [
        [number, number],
        [number, number],
      ];
      rows.push({
        scene: scene.name,
        tiles: CHANGED_TILES,
        oursMsMedian: ours[0],
        oursMsP95: ours[1],
        bitmapMsMedian: theirs[0],
        bitmapMsP95: theirs[1],
        ratio: ours[0] / theirs[0],
      });
    }
  } finally {
    await browser.close();
  }
  if (options.json) process.stdout.write(`${JSON.stringify(rows, undefined, 2)}\n`);
  else
    for (const r of rows)
      process.stdout.write(
        `${r.scene}: ${r.tiles} tiles ${r.oursMsMedian.toFixed(1)} / ${r.oursMsP95.toFixed(1)} ms, createImageBitmap ${r.bitmapMsMedian.toFixed(1)} / ${r.bitmapMsP95.toFixed(1)} ms (median / p95), ratio ${r.ratio.toFixed(2)}\n`,
      );
}

/** Two pictures of a scene, to and fro; tiles are sent whole, so that no shift spares the viewer any work. */
function roundsOf(scene: Scene): ViewerRounds {
  const { width, height } = scene;
  const grid = gridFor(width, height);
  const picture = new Uint32Array(width * height);
  scene.rewind();
  scene.next(picture);
  const first = picture.slice();
  const changed: number[] = [];
  // As many frames further as it takes for enough tiles to differ.
  while (changed.length < CHANGED_TILES && scene.next(picture)) {
    changed.length = 0;
    for (let tile = 0; tile < grid.tileCount; tile++) {
      const { x, y, width: w, height: h } = tileRect(grid, tile);
      let isSame = true;
      for (let row = y; row < y + h && isSame; row++)
        for (let at = row * width + x; at < row * width + x + w; at++)
          if (picture[at] !== first[at]) {
            isSame = false;
            break;
          }
      if (!isSame) changed.push(tile);
    }
  }
  const numbers = changed.slice(0, CHANGED_TILES);
  const tiles = numbers.map((tile) => tileRect(grid, tile));
  const source = new TileSource(width, height, { deflate, now: () => 0 });
  const units = (): ReceivedUnit[] => {
    const out: ReceivedUnit[] = [];
    for (let unit = source.next(MESSAGE_BYTES); unit; unit = source.next(MESSAGE_BYTES))
      out.push({ ...unit, generation: 1 });
    return out;
  };
  const cut = (from: Uint32Array, { x, y, width: w, height: h }: (typeof tiles)[number]) => {
    const out = new Uint32Array(w * h);
    for (let row = 0; row < h; row++) out.set(from.subarray((y + row) * width + x, (y + row) * width + x + w), row * w);
    return out;
  };
  const all = { x: 0, y: 0, width, height };
  source.put(all, first);
  const rounds = [{ units: units(), pngs: [{ x: 0, y: 0, png: pngOf(first, width, height) }] }];
  const pngs = [picture, first].map((from) =>
    tiles.map((rect) => ({ x: rect.x, y: rect.y, png: pngOf(cut(from, rect), rect.width, rect.height) })),
  );
  for (let round = 0; round < ROUNDS; round++) {
    const from = round % 2 === 0 ? picture : first;
    for (const rect of tiles) source.put(rect, cut(from, rect));
    units();
    source.want(numbers);
    rounds.push({ units: units(), pngs: pngs[round % 2] ?? [] });
  }
  return { width, height, rounds };
}

function pngOf(words: Uint32Array, width: number, height: number): Uint8Array {
  const png = new PNG({ width, height });
  words.forEach((word, i) => {
    png.data.writeUIntBE(word, i * 4, 3);
    png.data[i * 4 + 3] = 255;
  });
  return new Uint8Array(PNG.sync.write(png));
}

/** Bytes pass into a page as text. */
const packed = (rounds: ViewerRounds): string =>
  JSON.stringify(rounds, (_key, value: unknown) =>
    value instanceof Uint8Array ? { base64: Buffer.from(value).toString('base64') } : value,
  );

/** Runs inside the page. */
function runInWorker({ code, rounds }: { code: string; rounds: string }): Promise<unknown> {
  const data: unknown = JSON.parse(rounds, (_key, value: unknown) =>
    typeof value === 'object' && value !== null && 'base64' in value
      ? Uint8Array.from(atob(value.base64 as string), (c) => c.charCodeAt(0))
      : value,
  );
  const worker = new Worker(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })));
  return new Promise((resolve, reject) => {
    worker.onerror = (event) => reject(new Error(event.message));
    worker.onmessage = ({ data: times }: MessageEvent<{ trouble?: string }>) =>
      times.trouble ? reject(new Error(times.trouble)) : resolve(times);
    worker.postMessage(data);
  });
}
