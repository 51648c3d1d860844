import { initWasm, Resvg } from '@resvg/resvg-wasm';
import resvgWasm from '@resvg/resvg-wasm/index_bg.wasm';
import boldFont from 'dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf';
import plainFont from 'dejavu-fonts-ttf/ttf/DejaVuSans.ttf';
import evenFont from 'dejavu-fonts-ttf/ttf/DejaVuSansMono.ttf';
import type { Painting } from './painting.ts';

/** How wide what an SVG draws is, in its own units: for putting a frame around words. */
export async function widthOf(svg: string): Promise<number> {
  const drawing = await open(svg);
  const width = drawing.getBBox()?.width ?? 0;
  drawing.free();
  return width;
}

async function open(svg: string): Promise<InstanceType<typeof Resvg>> {
  isReady ??= initWasm(resvgWasm as BufferSource);
  await isReady;
  return new Resvg(svg, {
    font: {
      fontBuffers: [plainFont, boldFont, evenFont],
      defaultFontFamily: 'DejaVu Sans',
      loadSystemFonts: false,
    } as never,
  });
}

let isReady: Promise<void> | undefined;

/** An SVG as the 32-bit pixels that an X server takes. Fonts come with the program: the computer may have none. */
export async function renderSvg(svg: string): Promise<Painting> {
  const { width, height, pixels } = await renderRgba(svg);
  const bgrx = Buffer.alloc(pixels.length);
  for (let at = 0; at < pixels.length; at += 4) {
    bgrx[at] = pixels[at + 2] ?? 0;
    bgrx[at + 1] = pixels[at + 1] ?? 0;
    bgrx[at + 2] = pixels[at] ?? 0;
  }
  return { width, height, bgrx };
}

/** The same as bytes of red, green, blue and alpha. */
export async function renderRgba(
  svg: string,
): Promise<{ readonly width: number; readonly height: number; readonly pixels: Uint8Array }> {
  const drawing = await open(svg);
  const drawn = drawing.render();
  const { width, height, pixels } = drawn;
  drawn.free();
  drawing.free();
  return { width, height, pixels };
}
