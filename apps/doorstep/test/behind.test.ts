import { tellToCustomer, tellToTechnicians } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, startWorking, InFront, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* A computer at which somebody switches to its sign-in screen and back, as its own sign-in manager does it. */
let house: House;
beforeAll(async () => (house = await House.open()));
afterAll(() => house.close());

describe.skipIf(whyNoComputers())('a desktop that is behind another one', () => {
  it('shows nothing and is not worked until it is in front again; the session, what was said and the picture stay', async () => {
    const desktop = await computerOf(house);
    const { computer } = desktop;
    const { technician, customer, link } = await house.sessionUnderWay();
    const { person } = await house.withDoorstep(link, { desktop });
    const w = await startWorking(technician, person);
    const isBehind = () => technician.state.slices.presence.isBehind;
    const inFront = new InFront(desktop);
    expect(isBehind()).toBe(false);

    await inFront.signInScreen();
    await until('it to be told', isBehind);
    await until('the hands to rest', () => w.lease.state.name === 'closed');
    await until('the picture to be old', () => (w.picture.standing.ageMs ?? 0) > 2_000);
    w.lease.open();
    await until('an answer', () => w.lease.state.name !== 'opening');
    expect(w.lease.state).toMatchObject({ name: 'closed', why: expect.stringContaining('another desktop') as string });
    const { holderId } = technician.state;

    await inFront.desktopOf('bettina');
    await until('it to be in front', () => !isBehind());
    await until('the picture, and nobody was asked', w.isFresh);
    w.lease.open();
    await until('a lease', () => w.lease.state.name === 'open');
    expect(technician.state.holderId).toBe(holderId);

    // Whoever starts there while it is behind says so, too.
    await inFront.desktopOf('lightdm');
    await until('it to be told', isBehind);
    await computer.read('pkill', '-KILL', '-x', 'doorstep');
    await inFront.desktopOf('bettina');
    house.startDoorstep(desktop, `${house.url}/join/${link}`);
    await until('it to be in front', () => !isBehind());
    await askAndAgree(technician, person, ['view-screen']);
    const told = tellToTechnicians(technician.entries, ledger.en).map(({ sentence }) => sentence);
    expect(told.filter((one) => one.startsWith('Another desktop of the computer is in front'))).toHaveLength(2);
    expect(tellToCustomer(customer.entries, ledger.en).map(({ sentence }) => sentence)).toContain(
      'Your desktop was in front again',
    );
    w.stop();
  });
});
