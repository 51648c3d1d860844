import { fillWithRgb, TechnicianScreenshots, type TakenScreenshot } from '@porch/client';
import { writeFile } from 'node:fs/promises';
import { inflateRawSync } from 'node:zlib';
import { PNG } from 'pngjs';
import { defineKept, type CallOf } from '../cli-ability.ts';
import { screenshotCalls, type Box } from './calls.ts';

const BLANK = [0, 0, 0] as const;
const MARK = [0xc2, 0x41, 0x0c] as const;
const MARK_WIDTH = 3;
/** The ledger says that one was taken before anybody says where it went. */
const TOLD_MS = 10_000;

type Wanted = CallOf<typeof screenshotCalls, 'screenshot'>;

/** The PNG of what was taken, blanked first and marked then. */
function pngOf({ width, height, packed }: TakenScreenshot, { blanked, marked }: Wanted): Buffer {
  const rgb = inflateRawSync(packed, { maxOutputLength: width * height * 3 });
  const png = new PNG({ width, height });
  fillWithRgb(png.data, rgb);
  for (const box of blanked) fill(png, box, BLANK);
  for (const { x, y, width: w, height: h } of marked) {
    fill(png, { x, y, width: w, height: MARK_WIDTH }, MARK);
    fill(png, { x, y: y + h - MARK_WIDTH, width: w, height: MARK_WIDTH }, MARK);
    fill(png, { x, y, width: MARK_WIDTH, height: h }, MARK);
    fill(png, { x: x + w - MARK_WIDTH, y, width: MARK_WIDTH, height: h }, MARK);
  }
  return PNG.sync.write(png);
}

function fill(png: PNG, box: Box, [r, g, b]: readonly [number, number, number]): void {
  const right = Math.min(png.width, box.x + box.width);
  const bottom = Math.min(png.height, box.y + box.height);
  for (let y = Math.max(0, box.y); y < bottom; y++)
    for (let x = Math.max(0, box.x); x < right; x++) png.data.set([r, g, b, 255], (y * png.width + x) * 4);
}

export const keptScreenshot = defineKept({
  name: 'screenshot',
  calls: screenshotCalls,
  begin(kit) {
    const technician = new TechnicianScreenshots(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    async screenshot({ technician, kit }, wanted) {
      kit.need('take-screenshot');
      const taken = await technician.take(wanted.display);
      const { id, width, height } = taken;
      const png = pngOf(taken, wanted);
      await kit.until(() => kit.connection.state.slices.screenshot[id] !== undefined, TOLD_MS);
      if (wanted.file !== undefined) {
        await writeFile(wanted.file, png, { mode: 0o600 });
        await technician.tellKept(id, png);
      }
      if (wanted.keepWithSession)
        await kit.rest.keepScreenshot(kit.connection.sessionId, { screenshotId: id, png: png.toString('base64') });
      if (wanted.give) await technician.give(id, png);
      return { screenshotId: id, width, height, file: wanted.file };
    },
  },
});
