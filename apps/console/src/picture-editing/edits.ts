import { inUnit, markLines, strokePx } from '@porch/client';
import type { Mark } from '@porch/wire';

export const editKinds = ['blank', 'box', 'arrow', 'pen', 'text'] as const;
export type EditKind = (typeof editKinds)[number];
export type Place = Mark['points'][number];

/** One thing done to a still picture, in shares of its sides, so that it holds at any size. */
export interface Edit {
  readonly kind: EditKind;
  readonly points: readonly Place[];
  readonly text?: string;
}

/** Nearer points than this say nothing. */
const LEAST_STEP = 0.004;
/** Strokes and words are as large as they are on a picture of this width. */
const USUAL_WIDTH_PX = 1_280;
const WORDS_PX = 26;
const WORDS_BEHIND = '#fffdf7';

/** What is drawn from one place to another; a pen keeps where it went. */
export function goneOn(edit: Edit, to: Place): Edit {
  const place = { x: inUnit(to.x), y: inUnit(to.y) };
  const { kind, points } = edit;
  const last = points.at(-1);
  if (kind !== 'pen') return { ...edit, points: [points[0] ?? place, place] };
  if (last && Math.hypot(place.x - last.x, place.y - last.y) < LEAST_STEP) return edit;
  return { ...edit, points: [...points, place] };
}

/** Whether there is anything of it: a press that went nowhere draws nothing. */
export function isSomething({ kind, points, text = '' }: Edit): boolean {
  const [first, ...more] = points;
  if (!first) return false;
  if (kind === 'text') return text.trim() !== '';
  const xs = points.map(({ x }) => x);
  const ys = points.map(({ y }) => y);
  const [width, height] = [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)];
  return kind === 'blank' ? width > 0 && height > 0 : more.length > 0 && width + height > LEAST_STEP;
}

/** What a blank covers, in whole pixels: every pixel that it touches. */
export function coveredBy({ points }: Edit, width: number, height: number) {
  const xs = points.map(({ x }) => x * width);
  const ys = points.map(({ y }) => y * height);
  const [left, top] = [Math.floor(Math.min(...xs)), Math.floor(Math.min(...ys))];
  return { x: left, y: top, width: Math.ceil(Math.max(...xs)) - left, height: Math.ceil(Math.max(...ys)) - top };
}

/** Blanked first: what is blanked is not in the picture any longer, whatever is drawn over it. */
export function drawEdited(
  context: CanvasRenderingContext2D,
  image: ImageData,
  edits: readonly Edit[],
  colour: string,
): void {
  const { width, height } = image;
  context.putImageData(image, 0, 0);
  context.fillStyle = '#000';
  for (const edit of edits)
    if (edit.kind === 'blank') {
      const box = coveredBy(edit, width, height);
      context.fillRect(box.x, box.y, box.width, box.height);
    }
  const scale = Math.max(1, width / USUAL_WIDTH_PX);
  context.strokeStyle = colour;
  context.lineJoin = context.lineCap = 'round';
  for (const edit of edits) {
    const { kind, points, text } = edit;
    if (kind === 'blank') continue;
    if (kind === 'text') write(context, edit, scale, colour);
    else {
      const mark: Mark = { kind, points: [...points], ...(text ? { text } : {}) };
      context.lineWidth = strokePx(mark) * scale;
      for (const line of markLines(mark, width / height)) {
        context.beginPath();
        for (const { x, y } of line) context.lineTo(x * width, y * height);
        context.stroke();
      }
    }
  }
}

/** On a ground of its own, and whole within the picture as far as it fits. */
function write(context: CanvasRenderingContext2D, { points, text = '' }: Edit, scale: number, colour: string): void {
  const [place] = points;
  if (!place) return;
  const { width, height } = context.canvas;
  const size = WORDS_PX * scale;
  const pad = size / 4;
  context.font = `600 ${size}px "Atkinson Hyperlegible Next", "DejaVu Sans", sans-serif`;
  context.textBaseline = 'top';
  const wide = context.measureText(text).width + 2 * pad;
  const tall = size + 2 * pad;
  const x = Math.max(0, Math.min(place.x * width, width - wide));
  const y = Math.max(0, Math.min(place.y * height, height - tall));
  context.fillStyle = WORDS_BEHIND;
  context.fillRect(x, y, wide, tall);
  context.fillStyle = colour;
  context.fillText(text, x + pad, y + pad);
}

export const bytesOf = (canvas: HTMLCanvasElement, type: 'image/png' | 'image/jpeg'): Promise<Uint8Array> =>
  new Promise((resolve, reject) => {
    canvas.toBlob(
      (blob) => {
        if (blob) blob.arrayBuffer().then((bytes) => resolve(new Uint8Array(bytes)), reject);
        else reject(new Error('the browser makes no picture of this size'));
      },
      type,
      0.95,
    );
  });
