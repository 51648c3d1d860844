import { execFileSync } from 'node:child_process';

/** So fine that a pixel is a tenth of a millimetre. */
const DOTS_PER_INCH = 254;
const PIXELS_PER_MM = 10;
/** Darker than this is ink. */
const DARK = 100;
const MAX_PAGE_BYTES = 64 * 1024 * 1024;

/** How high the bars on the first page of a PDF are, in millimetres: the longest run of ink from top to bottom. Drawn by poppler. */
export function barcodeHeightMm(pdf: Uint8Array): number {
  const args = ['-r', String(DOTS_PER_INCH), '-gray', '-singlefile', '-'];
  const page = execFileSync('pdftoppm', args, { input: pdf, maxBuffer: MAX_PAGE_BYTES });
  // A portable grey map (PGM): magic, width, height, largest value, a line break, then a byte for each pixel.
  const head = /^P5\s+(\d+)\s+(\d+)\s+\d+\s/.exec(page.subarray(0, 100).toString('latin1'));
  if (!head) throw new Error('the page could not be drawn');
  const [width, height] = [Number(head[1]), Number(head[2])];
  let longest = 0;
  for (let x = 0; x < width; x++)
    for (let y = 0, run = 0; y < height; y++) {
      run = (page[head[0].length + y * width + x] ?? 255) < DARK ? run + 1 : 0;
      longest = Math.max(longest, run);
    }
  return longest / PIXELS_PER_MM;
}
