import { startDesktop } from '@porch/demo';
import { dumpScreen, House, lookAt, until, hideProgramAndAgree, questionToBeReady, tickHidden } from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* What the person at the desktop chooses for themselves: less than was asked, and what is never shown. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('grants less than the bundle that was asked for, and the rest is a no', async () => {
  const { technician, link } = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(link);
  await until('Doorstep', () => technician.state.holderId);
  const bundle = ['view-screen', 'control-input', 'give-files'] as const;
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: [...bundle] });
  const standing = (permission: (typeof bundle)[number]) =>
    technician.state.standings[technician.participantId]?.[permission]?.name;
  const question = await until('the question', () => person.question());
  await questionToBeReady(person);
  const control = question.choice(1, 3, true);
  await person.click(control.x, control.y);
  await person.click(question.yes.x, question.yes.y);
  await until('the answer', () => standing('view-screen') !== 'waiting');
  expect(bundle.map(standing)).toEqual(['allowed', 'saidNo', 'allowed']);
  expect(Object.keys(technician.state.asks)).toEqual([]);

  // Without seeing there is no working: leaving out the one leaves out the other.
  for (const permission of ['view-screen', 'give-files'] as const)
    await technician.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission,
      why: 'test',
      fact: undefined,
    });
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: [...bundle] });
  const again = await until('the question again', () => person.question());
  await questionToBeReady(person);
  const view = again.choice(0, 3, true);
  await person.click(view.x, view.y);
  await person.click(again.yes.x, again.yes.y);
  await until('the answer', () => standing('give-files') === 'allowed');
  expect(bundle.map(standing)).toEqual(['saidNo', 'saidNo', 'allowed']);
});

it('hides a program before the first picture, and shows it again when the person wants that', async () => {
  const { technician, link } = await house.sessionUnderWay();
  const { desktop, person } = await house.withDoorstep(link, { programs: 'editor' });
  await until('Doorstep', () => technician.state.holderId);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  await hideProgramAndAgree(person);
  const seen = lookAt(technician);
  await until('the picture', seen.isFresh);
  const isOfScreen = () => {
    const screen = dumpScreen(desktop.display);
    const shown = seen.pixels();
    return shown.filter((p, i) => p === screen[i]).length / screen.length;
  };
  // The editor fills most of the desktop, and nothing of it is there; what lies around it is.
  // A first picture may be of the moment in which all is still covered.
  await until('what lies around it', () => isOfScreen() > 0.02);
  expect(isOfScreen()).toBeLessThan(0.9);

  const bar = await until('the bar', () => person.bar());
  await person.click(bar.hide.x, bar.hide.y);
  await tickHidden(person);
  await until('all of it', () => isOfScreen() > 0.999);
});

it('comes in by the very command that a pressed link runs on a registered desktop', async () => {
  const { technician, link } = await house.sessionUnderWay();
  const { display, home } = await startDesktop(house.processes, {
    name: 'registered',
    home: join(house.folder, 'home-registered'),
    programs: 'none',
  });
  const env = { ...process.env, HOME: home, DISPLAY: display, XDG_DATA_HOME: '', XDG_CONFIG_HOME: '' };
  const doorstep = [process.execPath, join(inject('root'), 'dist', 'doorstep.mjs')] as const;
  execFileSync(doorstep[0], [doorstep[1], 'register'], { env });
  const entry = readFileSync(join(home, '.local', 'share', 'applications', 'zesty-porch-doorstep.desktop'), 'utf8');
  const exec = /^Exec=(.*)$/m.exec(entry)?.[1] ?? '';
  // As a desktop does it: the address in place of %u.
  const command = exec.replace('%u', `zesty-porch:${house.url}/join/${link}`);
  house.processes.start('Doorstep', 'sh', ['-c', command], { env, stdio: ['ignore', 'inherit', 'inherit'] });
  await until('Doorstep', () => technician.state.holderId);
});
