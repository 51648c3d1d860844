import { VirtualClock } from '@porch/testkit/virtual-clock';
import { expect, it } from 'vitest';
import { OpenAnswers } from './open-answers.ts';

function asking() {
  const clock = new VirtualClock();
  const settled: string[] = [];
  return { clock, settled, answers: new OpenAnswers(clock, (id) => void settled.push(id)) };
}
const codeOf = (asked: Promise<unknown>) =>
  asked.then(
    (value) => value,
    (error: { code?: string; message: string }) => error.code ?? error.message,
  );

it('waits for an answer, once, and no longer than a minute in which nothing comes', async () => {
  const { clock, answers, settled } = asking();
  const [answered, refused, late] = ['one', 'two', 'three'].map((id) => codeOf(answers.wait(id, () => true)));
  answers.resolve('one', 'a picture');
  answers.resolve('one', 'another');
  answers.reject('two', new Error('no'));
  clock.advance(59_000);
  expect(answers.has('three')).toBe(true);
  clock.advance(2_000);
  expect([await answered, await refused, await late]).toEqual(['a picture', 'no', 'NO_CONSENT_HOLDER']);
  expect([settled, clock.pending]).toEqual([['one', 'two', 'three'], 0]);
});

it('waits for what is large as long as something of it comes, and for nobody who cannot be reached', async () => {
  const { clock, answers } = asking();
  const large = codeOf(answers.wait('large', () => true));
  for (let minutes = 0; minutes < 10; minutes++) {
    clock.advance(50_000);
    answers.waitOn('large');
  }
  answers.resolve('large', 'all of it');
  expect(await large).toBe('all of it');
  expect(await codeOf(answers.wait('nobody', () => false))).toBe('NO_CONSENT_HOLDER');
  const open = codeOf(answers.wait('open', () => true));
  answers.close();
  expect([await open, clock.pending]).toEqual(['NOT_PRESENT', 0]);
});
