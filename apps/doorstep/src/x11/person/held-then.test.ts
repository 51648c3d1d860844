import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { HeldThen } from './held-then.ts';

const bitsOf = new Map([
  [37, 4],
  [64, 8],
]);
const LETTER = 39;

/** Some hands: each step presses or lets go one of the keys; the server answers what is pending now and then. */
const hands = fc.array(fc.constantFrom(37, 64, LETTER, 'answer' as const), { minLength: 4, maxLength: 40 });

it('knows what was held at a press, however late the answer is and whatever hands do meanwhile', async () => {
  await fc.assert(
    fc.asyncProperty(hands, async (steps) => {
      const held = new HeldThen(bitsOf);
      const down = new Set<number>();
      const bitsDown = () => [...down].reduce((bits, code) => bits | (bitsOf.get(code) ?? 0), 0);
      const waiting: ((bits: number) => void)[] = [];
      const asked: { wanted: number; got: Promise<number> }[] = [];
      const answer = async () => {
        for (const tell of waiting.splice(0)) tell(bitsDown());
        // The answer arrives before anything that hands do later.
        for (let i = 0; i < 4; i++) await Promise.resolve();
      };
      for (const step of steps) {
        if (step === 'answer') await answer();
        else if (down.delete(step)) held.onRelease(step);
        else {
          if (step === LETTER)
            asked.push({ wanted: bitsDown(), got: held.read(() => new Promise((resolve) => waiting.push(resolve))) });
          down.add(step);
          held.onPress(step);
        }
      }
      await answer();
      for (const { wanted, got } of asked) expect(await got).toBe(wanted);
    }),
    runs(),
  );
});
