import { startSound } from '@porch/demo';
import { atATerminal, desktopWithSound, EarAtSpeakers, House, toneFile, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Two computers with sound: the customer's, and the one on which a technician works at a terminal. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('hears their computer and speaks with them from the terminal, and says what is missing', async () => {
  const { desktop, sound: theirs } = await desktopWithSound(house, 'theirs');
  const mine = await startSound(house.processes, { name: 'mine', home: join(house.folder, 'home-mine') });
  const { porch, person } = await atATerminal(house, desktop, mine.env);
  expect([(await porch('listen')).code, (await porch('speak')).code], 'before a yes').toEqual([1, 1]);
  for (const what of ['see', 'hear', 'speak']) {
    const [asked] = await Promise.all([porch('ask', what), person.answer(true, 1_100)]);
    expect(asked.code, `ask ${what}`).toBe(0);
  }
  expect((await porch('listen')).out).toContain('You hear their computer here');
  const [myEar, theirEar] = [await EarAtSpeakers.open(mine), await EarAtSpeakers.open(theirs)];
  theirs.play(toneFile(house.folder, 440));
  await until('their tone at my speakers', () => myEar.loudness(440) > 0.2);
  mine.play(toneFile(house.folder, 700), 'microphone');
  expect(JSON.parse((await porch('speak', '--json')).out)).toMatchObject({ microphone: 'open' });
  await until('me at their speakers', () => theirEar.loudness(700) > 0.2);
  expect(JSON.parse((await porch('status', '--json')).out)).toMatchObject({
    isListening: true,
    speaking: { microphone: 'open' },
  });
  const said = (await porch('status')).out;
  expect([said.includes('You hear their computer here'), said.includes('Your microphone is open.')]).toEqual([
    true,
    true,
  ]);
  await porch('speak', 'muted');
  await until('silence there', () => theirEar.loudness(700) < 0.01);
  await porch('speak', 'off');
  await porch('listen', '--off');
  await until('silence here', () => myEar.loudness(440) < 0.01);
  myEar.close();
  theirEar.close();
});
