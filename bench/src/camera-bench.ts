import { TechnicianCamera, type LiveConnection } from '@porch/client';
import type { Permission } from '@porch/core';
import { processorMs, sleep, until } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const SECONDS = 10;
const SINGLES = 5;

/** How many pictures come, what passing them on costs, and how long a single one in full size takes. */
export async function cameraRows(
  technician: LiveConnection,
  doorstepPid: number,
  agree: (permission: Permission) => Promise<unknown>,
): Promise<Row[]> {
  await agree('see-camera');
  let [pictures, bytes, longest] = [0, 0, 0];
  const camera = new TechnicianCamera(technician, ({ jpeg, width }) => {
    pictures++;
    bytes += jpeg.length;
    longest = width;
  });
  const asked = performance.now();
  camera.setOn(true);
  await until('the first picture', () => pictures > 0);
  const firstMs = performance.now() - asked;
  await until('the largest', () => longest === 1280);
  [pictures, bytes] = [0, 0];
  const before = processorMs(doorstepPid);
  await sleep(SECONDS * 1_000);
  const percent = (processorMs(doorstepPid) - before) / (SECONDS * 10);
  const rate = `${(pictures / SECONDS).toFixed(1)} a second of ${Math.round(bytes / pictures / 1024)} KiB`;
  const waits: number[] = [];
  for (let i = 0; i < SINGLES; i++) {
    const startedAt = performance.now();
    await camera.take();
    waits.push(performance.now() - startedAt);
    await sleep(1_000);
  }
  camera.close();
  return [
    { what: 'camera: from looking to the first picture', value: `${firstMs.toFixed(0)} ms`, aim: '–' },
    { what: 'camera: pictures of 1280×720 on loopback', value: rate, aim: '–' },
    { what: 'camera: Doorstep while it passes them on', value: `${percent.toFixed(1)} % of a core`, aim: '–' },
    {
      what: 'camera: a single picture of 1920×1080, until it is here',
      value: `${quantile(waits, 0.5)?.toFixed(0)} ms`,
      aim: '–',
    },
  ];
}
