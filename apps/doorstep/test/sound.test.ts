import { technicianTalk, TechnicianSound, type TalkState } from '@porch/client';
import { tellToCustomer, type Permission } from '@porch/core';
import { endProcess, startSound } from '@porch/demo';
import { ledger } from '@porch/words/ledger';
import {
  askAndAgree,
  desktopWithSound,
  EarAtSpeakers,
  Ears,
  FrameTap,
  House,
  startWorking,
  toneFile,
  until,
} from '@porch/testkit';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* What is played and said, at a real sound server, heard by other ears than ours. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const toneOf = (hz: number, seconds = 6): string => toneFile(house.folder, hz, seconds);

async function withSound(permissions: Permission[], hasMicrophone = true) {
  const s = await house.sessionUnderWay();
  const { desktop, sound } = await desktopWithSound(house, 'with sound', { hasMicrophone });
  const tap = await FrameTap.open(house.url);
  const d = await house.withDoorstep(s.link, { desktop, over: tap.url });
  const seen = await startWorking(s.technician, d.person);
  if (permissions.length) await askAndAgree(s.technician, d.person, permissions);
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const withdraw = (permission: Permission) =>
    s.customer.command({
      type: 'withdrawPermission',
      participantId: s.technician.participantId,
      permission,
      why: 'a test',
      fact: undefined,
    });
  return { ...s, ...d, ...seen, sound, tap, told, withdraw };
}

describe('what programs play there', () => {
  it('is heard once it is allowed and wanted, whole, and silence costs nothing', async () => {
    const w = await withSound([]);
    const ears = new Ears();
    const hearing = new TechnicianSound(w.technician, ears.speaker);
    hearing.setOn(true);
    const playing = w.sound.play(toneOf(440, 4));
    await until('the tone to be over', () => playing.exitCode !== null);
    expect(w.tap.left('sound'), 'without a yes').toBe(0);
    await askAndAgree(w.technician, w.person, ['hear-sound']);
    const first = w.sound.play(toneOf(440, 12));
    await until('the tone', () => ears.loudness(440) > 0.3);
    expect(ears.loudness(440)).toBeLessThan(0.45);
    expect(ears.loudness(600)).toBeLessThan(0.05);
    await until('the entry', () => w.told().includes('Pim Aldersey began to hear what your computer plays'));
    // Two programs at once are both heard.
    const second = w.sound.play(toneOf(700, 12));
    await until('both', () => ears.loudness(440) > 0.2 && ears.loudness(700) > 0.2);
    // A busy machine may have made it pause: silence is when nothing plays.
    await until('both to be over', () => first.exitCode !== null && second.exitCode !== null);
    // What a busy machine held back comes late; then nothing at all, for a while.
    const still = { left: -1, sinceMs: 0 };
    await until('nothing to leave in silence', () => {
      const left = w.tap.left('sound');
      if (left !== still.left) Object.assign(still, { left, sinceMs: performance.now() });
      return performance.now() - still.sinceMs > 2_500;
    });
    const before = w.tap.left('sound');
    // What is not wanted is not sent, whatever plays.
    hearing.setOn(false);
    const long = w.sound.play(toneOf(500, 3));
    await until('the tone to be over', () => long.exitCode !== null);
    expect(w.tap.left('sound') - before).toBe(0);
    hearing.close();
  });

  it('ends with the leave, rests in a private moment, and comes back with the sound server', async () => {
    const w = await withSound(['hear-sound']);
    const ears = new Ears();
    const hearing = new TechnicianSound(w.technician, ears.speaker);
    hearing.setOn(true);
    w.sound.play(toneOf(440, 120));
    await until('the tone', () => ears.loudness(440) > 0.3);
    await w.customer.command({ type: 'setPrivate', isOn: true, fact: undefined });
    await until('a rest', () => performance.now() - ears.heardAtMs > 700);
    await w.customer.command({ type: 'setPrivate', isOn: false, fact: undefined });
    await until('it to go on', () => performance.now() - ears.heardAtMs < 100);
    await endProcess(w.sound.server);
    const { holderId } = w.technician.state;
    const cannot = () => w.technician.state.participants[holderId ?? '']?.cannot['hear-sound'];
    await until('the reason', () => cannot() === 'computer-cannot');
    const again = await startSound(house.processes, { name: 'back', home: w.desktop.home });
    await until('it to be possible again', () => cannot() === undefined);
    ears.forget();
    again.play(toneOf(520, 120));
    await until('the tone of the new server', () => ears.loudness(520) > 0.3);
    await w.withdraw('hear-sound');
    await until('the end', () => performance.now() - ears.heardAtMs > 500);
    const left = w.tap.left('sound');
    const sinceMs = performance.now();
    await until('a while', () => performance.now() - sinceMs > 1_000);
    expect(w.tap.left('sound')).toBe(left);
    hearing.close();
  });
});

describe('speaking together', () => {
  it('brings each voice to the other side, never a voice back to who spoke, and is muted by one key', async () => {
    const w = await withSound(['hear-sound']);
    const speakers = await EarAtSpeakers.open(w.sound);
    const programs = new Ears();
    const hearing = new TechnicianSound(w.technician, programs.speaker);
    hearing.setOn(true);
    const ears = new Ears(620);
    const talk = technicianTalk(w.technician, ears);
    let now: TalkState = talk.state;
    talk.listeners.on('now', (state) => (now = state));
    w.technician.on('entry', () => talk.changed());
    talk.open();
    w.sound.play(toneOf(300, 120), 'microphone');
    const sinceMs = performance.now();
    await until('a while', () => performance.now() - sinceMs > 1_000);
    expect([w.tap.left('voice'), speakers.loudness(620) > 0.01], 'before a yes').toEqual([0, false]);
    await askAndAgree(w.technician, w.person, ['speak-together']);
    talk.changed();
    await until('their voice', () => ears.loudness(300) > 0.2);
    await until('mine at their speakers', () => speakers.loudness(620) > 0.2);
    // It would be at 0.4; what is chopped by a busy machine has a little of every pitch.
    expect(programs.loudness(620), 'my own voice among what programs play').toBeLessThan(0.05);
    for (const sentence of ['Your microphone was opened', 'The microphone of Pim Aldersey was opened: you hear them'])
      await until('both in the copy', () => w.told().includes(sentence));
    await until('the word', () => now.others[0]?.microphone === 'open');
    // Control, Alt and M: theirs is closed wholly, mine goes on.
    await w.person.chord([37, 64, 58]);
    await until('the word', () => now.others[0]?.microphone === 'muted');
    await until('silence', () => performance.now() - ears.heardAtMs > 500);
    await until('mine to go on', () => speakers.loudness(620) > 0.2);
    await w.person.chord([37, 64, 58]);
    ears.forget();
    await until('their voice again', () => ears.loudness(300) > 0.2);
    talk.setMuted(true);
    await until('mine to be gone there', () => speakers.loudness(620) < 0.01);
    talk.setMuted(false);
    await until('mine to be back', () => speakers.loudness(620) > 0.2);
    await w.withdraw('speak-together');
    await until('the end of both', () => speakers.loudness(620) < 0.01 && performance.now() - ears.heardAtMs > 500);
    const left = w.tap.left('voice');
    const waitFromMs = performance.now();
    await until('a while', () => performance.now() - waitFromMs > 1_000);
    expect(w.tap.left('voice')).toBe(left);
    talk.close();
    hearing.close();
    speakers.close();
  });

  it('goes on without a microphone, and says so', async () => {
    const w = await withSound([], false);
    const speakers = await EarAtSpeakers.open(w.sound);
    const ears = new Ears(620);
    const talk = technicianTalk(w.technician, ears);
    w.technician.on('entry', () => talk.changed());
    await askAndAgree(w.technician, w.person, ['speak-together']);
    talk.open();
    await until('the word', () => talk.state.others[0]?.microphone === 'none');
    await until('mine at their speakers', () => speakers.loudness(620) > 0.2);
    expect(ears.packets).toBe(0);
    talk.close();
    speakers.close();
  });
});
