import {
  LocalPicture,
  OLD_MS,
  ReturnAsks,
  TechnicianRestart,
  WatchedPictures,
  type LiveConnection,
} from '@porch/client';
import { isEffective, standingOf } from '@porch/core';
import { PersonAtDesk, type XDesktop } from '@porch/demo';
import { until } from './bench-house.ts';
import { codecs } from './codecs.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const TIMES = 3;
const ASKED = /wants to restart this computer/;

/** A restart with the session carried over, beside what the computer needs for itself: the last part, since nothing else is open afterwards. */
export async function restartRows(
  technician: LiveConnection,
  computer: NonNullable<XDesktop['computer']>,
): Promise<Row[]> {
  const picture = new LocalPicture(technician, 0, codecs);
  const stop = new WatchedPictures(technician).open(picture);
  const isFresh = () => picture.viewer.picture.isComplete && (picture.standing.ageMs ?? Infinity) < OLD_MS;
  const restart = new TechnicianRestart(technician);
  const returning = new ReturnAsks(technician, () => undefined);
  const slice = () => technician.state.slices['restart-and-return'];
  const may = () =>
    isEffective(standingOf(technician.state, technician.participantId, 'restart-computer'), technician.serviceNowMs);
  const [own, down, back, cut]: number[][] = [[], [], [], []];
  for (let i = 0; i < TIMES; i++) {
    const person = await PersonAtDesk.at(computer.display);
    await until('leave to restart it', may);
    const wanted = restart.restart(restart.wanted('restart', false), await restart.look());
    const { starts } = computer;
    const { returns } = slice();
    await person.press(ASKED, 'yes');
    const yesAt = performance.now();
    await wanted;
    down?.push(performance.now() - yesAt);
    await computer.isUp(starts + 1);
    const upAt = performance.now();
    own?.push(upAt - yesAt);
    await until('the return', () => slice().returns > returns);
    await until('the picture', isFresh);
    back?.push(performance.now() - upAt);
    person.close();
    await computer.cutPower();
    const cutReturns = slice().returns;
    computer.switchOn();
    await computer.isUp(starts + 2);
    const onAt = performance.now();
    await until('the return', () => slice().returns > cutReturns);
    await until('the picture', isFresh);
    cut?.push(performance.now() - onAt);
  }
  stop();
  restart.close();
  returning.close();
  const ms = (times: readonly number[] | undefined) => `${quantile(times ?? [], 0.5)?.toFixed(0) ?? '–'} ms`;
  return [
    { what: 'restart: yes to that it goes down', value: ms(down), aim: '–' },
    { what: 'yardstick: yes to the next desktop, which the computer needs itself', value: ms(own), aim: '–' },
    { what: 'restart: from the desktop to the picture, median', value: ms(back), aim: '3 s' },
    { what: 'power cut: from the desktop to the picture, median', value: ms(cut), aim: '3 s' },
  ];
}
