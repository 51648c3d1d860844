import type { CameraPicture } from '@porch/client';
import { runs } from '@porch/testkit';
import { decodeCameraFrame } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Lease } from '../../consent/held.ts';
import { CameraViewer } from './camera-viewer.ts';

const step = fc.oneof(
  { weight: 4, arbitrary: fc.record({ kind: fc.constant('wait' as const), ms: fc.integer({ min: 20, max: 900 }) }) },
  {
    weight: 5,
    arbitrary: fc.record({ kind: fc.constant('picture' as const), bytes: fc.integer({ min: 1, max: 60_000 }) }),
  },
  // What they say has arrived: some of what was sent, all of it, or what never was.
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('got' as const), behind: fc.integer({ min: -1, max: 3 }) }) },
  {
    weight: 1,
    arbitrary: fc.record({
      kind: fc.constant('lease' as const),
      is: fc.constantFrom('running', 'running', 'running', 'paused', 'over'),
    }),
  },
);

it('never has more than two on the way, none without leave, none too soon after another, and always goes on', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
      let [nowMs, lease, sent, got] = [0, 'running', 0, 0];
      const sentAtMs: number[] = [];
      const leaseOf = {
        get state() {
          return { name: lease };
        },
        get isRunning() {
          return lease === 'running';
        },
      } as Lease;
      const viewer = new CameraViewer(1, leaseOf, nowMs);
      const offer = (bytes: number) => {
        const readyAtMs = viewer.readyAtMs();
        if (readyAtMs === undefined || readyAtMs > nowMs) return;
        expect(lease).toBe('running');
        const picture: CameraPicture = { width: 16, height: 9, jpeg: new Uint8Array(bytes) };
        let pieces = 0;
        // Some lines are slow: then the pieces are no larger than such a line carries in a moment.
        const messageBytes = sent % 2 ? 1_600 : undefined;
        viewer.send(picture, viewer.pace.longestPixels, nowMs, {
          messageBytes,
          send: (plain) => {
            const piece = decodeCameraFrame(plain);
            expect([piece.number, piece.sizeBytes]).toEqual([sent + 1, bytes]);
            expect(piece.bytes.length).toBeLessThanOrEqual(messageBytes ?? 16_384);
            pieces += piece.bytes.length;
            return true;
          },
        });
        expect(pieces).toBe(bytes);
        sent++;
        expect(nowMs - (sentAtMs.at(-1) ?? -Infinity)).toBeGreaterThanOrEqual(80);
        sentAtMs.push(nowMs);
        // What was never answered is given up after a while, so that a lost line ends nothing.
        expect(sentAtMs.filter((at, i) => i + 1 > got && nowMs - at < 4_000).length).toBeLessThanOrEqual(2);
      };
      for (const one of steps) {
        if (one.kind === 'wait') nowMs += one.ms;
        else if (one.kind === 'picture') offer(one.bytes);
        else if (one.kind === 'lease') lease = one.is;
        else {
          got = Math.max(got, Math.min(sent, sent - one.behind));
          viewer.hear(Math.max(0, sent - one.behind), nowMs);
        }
      }
      // Whatever happened: with leave, and after a while, there is another.
      lease = 'running';
      nowMs += 4_001;
      viewer.hear(got, nowMs);
      const before = sent;
      offer(10);
      expect(sent).toBe(before + 1);
    }),
    runs(),
  );
});

it('is gone when nothing was heard for a while, and with the leave', () => {
  const lease = { state: { name: 'running' }, isRunning: true } as Lease;
  const viewer = new CameraViewer(1, lease, 0);
  expect([viewer.isGone(4_000), viewer.isGone(6_000)]).toEqual([false, true]);
  viewer.hear(0, 6_000);
  expect(viewer.isGone(7_000)).toBe(false);
  Object.assign(lease, { state: { name: 'over' } });
  expect(viewer.isGone(7_000)).toBe(true);
});
